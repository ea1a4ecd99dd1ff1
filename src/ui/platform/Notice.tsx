import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import type { ReactNode } from 'react';
import { ServerProblem } from './client';

/** An error where the person is looking: what happened, to which file, and what to do. */
export function ErrorNotice({
  error,
  again,
  close,
}: {
  error: unknown;
  again?: () => void;
  close?: () => void;
}) {
  if (!error) return null;
  const problem = error instanceof ServerProblem ? error.details : null;
  return (
    <Alert
      severity="error"
      variant="outlined"
      {...(close ? { onClose: close } : {})}
      sx={{
        bgcolor: 'var(--paper)',
        color: 'var(--ink)',
        '& .MuiAlert-message': { overflowWrap: 'anywhere' },
      }}
      {...(again
        ? {
            action: (
              <Button size="small" onClick={again}>
                Try again
              </Button>
            ),
          }
        : {})}
    >
      <strong>
        {problem?.detail ?? (error instanceof Error ? error.message : 'Something unexpected went wrong.')}
      </strong>
      {problem?.file && (
        <div className="figures" style={{ fontSize: 12 }}>
          {problem.file}
        </div>
      )}
      {problem?.next && <div>{problem.next}</div>}
    </Alert>
  );
}

/** An empty screen, or an empty part of one, says what to do next. Its title is the page's heading where it is the `whole` page. */
export function Empty({
  title,
  whole = false,
  children,
}: {
  title: string;
  whole?: boolean;
  children?: ReactNode;
}) {
  const Heading = whole ? 'h1' : 'h2';
  return (
    <div
      style={{
        display: 'grid',
        placeContent: 'center',
        justifyItems: 'center',
        gap: 10,
        minHeight: 220,
        textAlign: 'center',
        padding: 24,
      }}
    >
      <Heading>{title}</Heading>
      {children}
    </div>
  );
}
