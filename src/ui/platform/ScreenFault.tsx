'use client';
import Button from '@mui/material/Button';
import { Empty } from './Notice';

interface Props {
  error: Error;
  /** Draws the screen again. */
  reset: () => void;
}

/** What stands in the place of a screen that failed while it was drawn, or whose code is gone since another version was started. */
export function ScreenFault({ error, reset }: Props) {
  const gone = error.name === 'ChunkLoadError';
  return (
    <Empty title="This screen has stopped" whole>
      <p role="alert" style={{ maxWidth: 480, overflowWrap: 'anywhere' }}>
        {gone
          ? 'It could not be loaded: Sort Shelf does not answer, or is of another version now.'
          : error.message || 'Something unexpected went wrong.'}
      </p>
      <p className="soft" style={{ maxWidth: 480 }}>
        No file was touched by it. What was saved is saved, copies and other work go on; what was being typed
        here may be lost.
      </p>
      <div style={{ display: 'flex', gap: 10 }}>
        {!gone && (
          <Button variant="contained" onClick={reset}>
            Try again
          </Button>
        )}
        <Button variant={gone ? 'contained' : 'text'} onClick={() => location.reload()}>
          Reload the page
        </Button>
      </div>
    </Empty>
  );
}
