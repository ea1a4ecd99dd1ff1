'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useId } from 'react';
import type { MovePlan, PlaceView } from '../../core/places';
import { shownPath } from '../../core/platform/names';
import { plural } from '../../core/platform/words';
import { formatBytes } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { FolderChooser, useWalk } from './FolderChooser';
import styles from './places.module.css';

/** Moves a place to an empty folder, after what that would do was shown. It goes on where the dialog is closed. */
export function MoveDialog({
  place,
  close,
  done,
}: {
  place: PlaceView;
  close: () => void;
  done: () => Promise<unknown>;
}) {
  const server = useServer();
  const id = useId();
  const walk = useWalk();
  const path = walk.wentTo;
  const plan = useQuery({
    queryKey: ['move place', place.id, path],
    queryFn: () => server.planMove(place.id, path!),
    enabled: path !== null,
    retry: false,
    staleTime: 0,
    gcTime: 0,
  });
  const move = useMutation({ mutationFn: () => server.movePlace(place.id, path!), onSuccess: done });
  const name = shownPath(place.name);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="md" aria-labelledby={id}>
      <DialogTitle id={id}>Move “{name}” to another folder</DialogTitle>
      <DialogContent className={styles.dialog}>
        {move.data ? (
          <p role="status">
            “{name}” is in <span className="figures">{shownPath(move.data.to)}</span> now.
            {move.data.left !== null && (
              <>
                {' '}
                The folder it was in is as it was: remove{' '}
                <span className="figures">{shownPath(move.data.left)}</span> yourself, when you no longer want
                it.
              </>
            )}
          </p>
        ) : (
          <>
            <p className="soft">
              Choose an empty folder, or make one. Clips, names and proxies stay linked; nothing is
              overwritten.
            </p>
            <FolderChooser walk={walk} />
            {path !== null && <Plan plan={plan.data} error={plan.error} />}
            <ErrorNotice error={move.error} />
            {move.isPending && (
              <p role="status">
                Moving … Other work is finished first. You can close this: the move goes on.
              </p>
            )}
          </>
        )}
      </DialogContent>
      <DialogActions>
        {walk.against !== null && <span className={styles.against}>{walk.against}</span>}
        <Button onClick={close}>{move.data || move.isPending ? 'Close' : 'Cancel'}</Button>
        {!move.data && (
          <Button
            variant="contained"
            disabled={plan.data?.against.length !== 0 || move.isPending}
            onClick={() => move.mutate()}
          >
            Move it here
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}

/** What moving it there would do, or why it cannot be done. */
function Plan({ plan, error }: { plan: MovePlan | undefined; error: unknown }) {
  if (error) return <ErrorNotice error={error} />;
  if (!plan) return <p role="status">Looking at what is in it …</p>;
  if (plan.against.length > 0)
    return (
      <ul className={styles.plan} role="status">
        {plan.against.map((why) => (
          <li key={why}>{why}</li>
        ))}
      </ul>
    );
  const what = `${plural(plan.files, 'file')}, ${formatBytes(plan.bytes)}`;
  return (
    <p role="status">
      {plan.sameVolume
        ? `${what}, on the same volume: the folder is renamed, with all that is in it.`
        : `${what}, to another volume with ${formatBytes(plan.free)} free: every file is copied, read back and compared. The folder it is in now is left as it is.`}
    </p>
  );
}
