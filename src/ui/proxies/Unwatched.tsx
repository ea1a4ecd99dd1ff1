import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import { watchedInWords } from '../../core/proxies/shapes';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './proxies.module.css';

/** Clips that get no proxy, with whose making picture and sound are checked, and recordings of sound: they are checked when it is asked for. */
export function Unwatched({ clips }: { clips: readonly string[] }) {
  const server = useServer();
  const watch = useMutation({ mutationFn: server.watchClips });
  if (clips.length === 0 && !watch.data && !watch.error) return null;
  return (
    <div className={styles.unwatched}>
      <ErrorNotice error={watch.error} close={() => watch.reset()} />
      {watch.data && <p role="status">{watchedInWords(watch.data)}</p>}
      {clips.length > 0 && (
        <>
          <span className="soft">
            Picture and sound of {plural(clips.length, 'clip')} are not checked for black, still, silent and
            clipped parts yet: no proxy is made of {clips.length === 1 ? 'it' : 'them'} here.
          </span>
          <Button
            size="small"
            variant="outlined"
            disabled={watch.isPending}
            onClick={() => watch.mutate([...clips])}
          >
            {watch.isPending ? 'Checking …' : `Check ${plural(clips.length, 'clip')}`}
          </Button>
        </>
      )}
    </div>
  );
}
