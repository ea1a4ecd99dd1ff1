import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { useMutation } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { ClipView } from '../../core/cards/shapes';
import { comparedInWords } from '../../core/proxies';
import { plural } from '../platform/format';
import { handOn } from '../platform/handedOn';
import { useAddress, useServer } from '../platform/job';
import Link from '../platform/Link';
import { ErrorNotice } from '../platform/Notice';
import styles from './card.module.css';

/** What can be done with the clips of a card that are chosen, and with the card. */
export function CardFoot({
  card,
  shown,
  picked,
  said,
  say,
}: {
  card: string;
  /** How many clips are in sight. */
  shown: number;
  picked: readonly ClipView[];
  said: string | null;
  say: (said: string) => void;
}) {
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const [forgetting, setForgetting] = useState(false);
  const act = useMutation({ mutationFn: async (work: () => Promise<string>) => say(await work()) });
  const ids = picked.map((c) => c.id);
  const acts: Record<string, () => Promise<string>> = {
    'Make proxies': async () => {
      const lacking = picked.filter((c) => c.state === 'read' && c.pair.state !== 'proven' && !c.pair.made);
      const { added } = await server.makeProxies(lacking.map((c) => c.id));
      return added > 0 ? `${plural(added, 'proxy', 'proxies')} queued` : 'None of them needs a proxy';
    },
    'Prove again': async () => comparedInWords(await server.provePairs(ids)),
    'Read again': async () => {
      await server.readAgain(ids);
      return `${plural(picked.length, 'clip')} being read again`;
    },
  };
  return (
    <>
      <footer className={styles.foot}>
        <strong aria-live="polite">
          {picked.length} of {shown} chosen
        </strong>
        <Button
          size="small"
          component={Link}
          // All of the card is the card's own; a choice is handed over.
          onClick={() => handOn(ids)}
          href={address(picked.length > 1 ? '/naming?chosen' : `/naming?card=${encodeURIComponent(card)}`)}
        >
          {picked.length > 1 ? `Name ${plural(picked.length, 'clip')}` : 'Name this card'}
        </Button>
        {Object.entries(acts).map(([words, work]) => (
          <Button
            key={words}
            size="small"
            disabled={picked.length === 0 || act.isPending}
            onClick={() => act.mutate(work)}
          >
            {words}
          </Button>
        ))}
        <Button size="small" color="inherit" disabled={act.isPending} onClick={() => setForgetting(true)}>
          Forget card …
        </Button>
        <span className="soft" role="status">
          {said ?? 'Shift or Ctrl chooses more.'}
        </span>
      </footer>
      {act.error && (
        <div style={{ padding: '0 20px 10px' }}>
          <ErrorNotice error={act.error} close={() => act.reset()} />
        </div>
      )}
      <ForgetCard
        card={card}
        open={forgetting}
        close={() => setForgetting(false)}
        forget={() =>
          act.mutate(async () => {
            await server.forgetCard(card);
            router.push(address('/'));
            return '';
          })
        }
      />
    </>
  );
}

function ForgetCard({
  card,
  open,
  close,
  forget,
}: {
  card: string;
  open: boolean;
  close: () => void;
  forget: () => void;
}) {
  return (
    <Dialog open={open} onClose={close}>
      <DialogTitle>Forget {card}?</DialogTitle>
      <DialogContent>
        The card leaves the job, for when it was taken in by mistake or under a wrong day. Its files stay on
        disk exactly as they are, and it can be taken in again.
      </DialogContent>
      <DialogActions>
        <Button
          color="error"
          onClick={() => {
            close();
            forget();
          }}
        >
          Forget card
        </Button>
        <Button variant="contained" onClick={close} autoFocus>
          Cancel
        </Button>
      </DialogActions>
    </Dialog>
  );
}
