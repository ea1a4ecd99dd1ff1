import Button from '@mui/material/Button';
import { useMutation } from '@tanstack/react-query';
import { type Makeable, watchedInWords } from '../../core/proxies/shapes';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './proxies.module.css';

/** Clips that get no proxy, with whose making picture and sound are checked: they are checked by themselves. */
export function Unwatched({ clips }: { clips: readonly Makeable[] }) {
  const server = useServer();
  const watch = useMutation({ mutationFn: server.watchClips });
  const left = clips.filter((c) => !c.watched && !c.needed && c.has.length === 0);
  if (left.length === 0 && !watch.data && !watch.error) return null;
  return (
    <div className={styles.unwatched}>
      <ErrorNotice error={watch.error} close={() => watch.reset()} />
      {watch.data && <p role="status">{watchedInWords(watch.data)}</p>}
      {left.length > 0 && (
        <>
          <span className="soft">
            Of {plural(left.length, 'clip')} no proxy is made here: picture and sound are not checked for
            black, still, silent and clipped parts yet.
          </span>
          <Button
            size="small"
            variant="outlined"
            disabled={watch.isPending}
            onClick={() => watch.mutate(left.map((c) => c.clip))}
          >
            {watch.isPending ? 'Checking …' : `Check ${plural(left.length, 'clip')}`}
          </Button>
        </>
      )}
    </div>
  );
}
