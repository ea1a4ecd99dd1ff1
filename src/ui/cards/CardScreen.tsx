'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { useMutation, useQuery } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useRouter } from 'next/navigation';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { asValue } from '../../core/choose';
import { suspicionOf } from '../../core/facts';
import { comparedInWords } from '../../core/proxies';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatDay, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useCard, useJob, useSuspicions } from '../platform/queries';
import { handOn } from '../platform/handedOn';
import { Tag } from '../platform/Tag';
import { isTyping } from '../shell';
import styles from './card.module.css';
import { ClipSet, type SetProps, type SetView } from './ClipSet';
import { ClipTable } from './ClipTable';
import { Drawer } from './Drawer';
import { Spines } from './Spines';

/** The clips of a card, as spines or as a table, with one of them open in the drawer. */
export function CardScreen({
  id,
  problemsOnly,
  clip,
}: {
  id: string;
  problemsOnly: boolean;
  clip: string | null;
}) {
  const address = useAddress();
  const server = useServer();
  const card = useCard(id);
  const suspicions = useSuspicions(card.isSuccess).data ?? [];
  const job = useJob().data;
  const [view, setView] = useState<SetView>('spines');
  const [only, setOnly] = useState(problemsOnly);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(() => new Set(clip ? [clip] : []));
  const [focus, setFocus] = useState<string | null>(clip);
  const [anchor, setAnchor] = useState<string | null>(clip);
  const [forgetting, setForgetting] = useState(false);
  const router = useRouter();
  const [said, setSaid] = useState<string | null>(null);
  const act = useMutation({ mutationFn: async (work: () => Promise<string>) => setSaid(await work()) });

  const all = useMemo(() => card.data?.views ?? [], [card.data]);
  const clips = useMemo(() => (only ? all.filter((c) => c.problems.length > 0) : all), [all, only]);
  const open = clips.find((c) => c.id === focus) ?? clips.find((c) => chosen.has(c.id)) ?? null;

  const range = useCallback(
    (from: string | null, to: string) => {
      const [a, b] = [clips.findIndex((c) => c.id === (from ?? to)), clips.findIndex((c) => c.id === to)];
      return clips.slice(Math.max(0, Math.min(a, b)), Math.max(a, b) + 1).map((c) => c.id);
    },
    [clips],
  );

  const choose = useCallback(
    (to: string, e: { shiftKey: boolean; ctrlKey: boolean; metaKey: boolean }) => {
      setSaid(null);
      setFocus(to);
      if (e.shiftKey) return setChosen(new Set(range(anchor, to)));
      setAnchor(to);
      setChosen((old) => {
        if (!e.ctrlKey && !e.metaKey) return new Set([to]);
        const next = new Set(old);
        if (!next.delete(to)) next.add(to);
        return next;
      });
    },
    [range, anchor],
  );

  // The first clip is open from the start: the drawer is never empty while there is something to see.
  if (focus === null && clips[0]) {
    setFocus(clips[0].id);
    setChosen(new Set([clips[0].id]));
    setAnchor(clips[0].id);
  }

  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e)) return;
      if (view !== 'frames' && (e.ctrlKey || e.metaKey) && e.key === 'a') {
        e.preventDefault();
        setChosen(new Set(clips.map((c) => c.id)));
        return;
      }
      if (view !== 'spines' || e.ctrlKey || e.metaKey || e.altKey) return;
      const at = clips.findIndex((c) => c.id === focus);
      const to = { ArrowRight: at + 1, ArrowLeft: at - 1, Home: 0, End: clips.length - 1 }[e.key];
      const next = to === undefined ? undefined : clips[Math.max(0, Math.min(clips.length - 1, to))];
      if (!next) return;
      e.preventDefault();
      choose(next.id, { shiftKey: e.shiftKey, ctrlKey: false, metaKey: false });
      requestAnimationFrame(() => document.querySelector<HTMLElement>(`[data-clip="${next.id}"]`)?.focus());
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [clips, focus, choose, view]);

  if (card.error)
    return (
      <div style={{ padding: 20, display: 'grid', gap: 12 }}>
        <ErrorNotice error={card.error} again={() => void card.refetch()} />
        <Link href={address('/')}>To the Wall</Link>
      </div>
    );
  if (!card.data) return null;
  const camera = job?.cameras.find((c) => c.label === card.data.camera);
  const date = job?.days.find((d) => d.number === card.data.day)?.date ?? null;
  const { stop, look } = card.data;
  const oddities = [...suspicions.flatMap((s) => suspicionOf(card.data, s) ?? []), ...card.data.oddities];
  const problems = stop + look + oddities.length - card.data.oddities.length;
  const picked = clips.filter((c) => chosen.has(c.id)).map((c) => c.id);
  return (
    <div className={styles.screen}>
      <div className={styles.main}>
        <header className={styles.head}>
          <div className={styles.label}>
            <h1 className="figures">{card.data.id}</h1>{' '}
            <span className="soft">
              Day {card.data.day}, {formatDay(date)} · Camera {card.data.camera}
              {camera?.model ? ` · ${camera.model}` : ''}
            </span>
          </div>
          <span className="soft">
            {plural(card.data.clips, 'clip')} · {formatRunningTime(card.data.seconds)} ·{' '}
            {formatBytes(card.data.bytes)}
          </span>
          {problems > 0 && (
            <button type="button" className={styles.only} aria-pressed={only} onClick={() => setOnly(!only)}>
              <Tag tone={only ? 'plain' : stop > 0 ? 'stop' : 'look'}>
                {only ? 'show all clips' : `${problems} to look at`}
              </Tag>
            </button>
          )}
          <span style={{ flex: 1 }} />
          {card.data.safe > 0 && (
            <Link href={address(`/card/${encodeURIComponent(id)}/wipe`)} className={styles.wipe}>
              {plural(card.data.safe, 'safe copy', 'safe copies')}: may it be wiped?
            </Link>
          )}
          <ToggleButtonGroup
            size="small"
            exclusive
            value={view}
            onChange={(_, v: SetView | null) => v && setView(v)}
            aria-label="View"
          >
            <ToggleButton value="spines" sx={{ py: 0.25 }}>
              Spines
            </ToggleButton>
            <ToggleButton value="frames" sx={{ py: 0.25 }}>
              Frames
            </ToggleButton>
            <ToggleButton value="table" sx={{ py: 0.25 }}>
              Table
            </ToggleButton>
          </ToggleButtonGroup>
        </header>
        {only && oddities.length > 0 && (
          <ul className={styles.gaps}>
            {oddities.map((g) => (
              <li key={g}>
                <Tag tone="look">card</Tag> {g}
              </li>
            ))}
          </ul>
        )}
        <div className={styles.clips}>
          {clips.length === 0 ? (
            <Empty title={only ? 'No clip here needs a look' : 'This card holds no clips'} />
          ) : view === 'spines' ? (
            <Spines clips={clips} chosen={chosen} focus={focus} choose={choose} />
          ) : view === 'frames' ? (
            <CardFrames
              card={id}
              {...{ only, chosen, focus }}
              choose={(ids, at) => {
                setChosen(ids);
                setFocus(at);
              }}
            />
          ) : (
            <ClipTable
              clips={clips}
              chosen={chosen}
              setChosen={(ids, at) => {
                setChosen(new Set(ids));
                if (at) setFocus(at);
              }}
            />
          )}
        </div>
        <footer className={styles.foot}>
          <strong aria-live="polite">
            {picked.length} of {clips.length} chosen
          </strong>
          <Button
            size="small"
            component={Link}
            // All of the card is the card's own; a choice is handed over.
            onClick={() => handOn(picked)}
            href={address(picked.length > 1 ? '/naming?chosen' : `/naming?card=${encodeURIComponent(id)}`)}
          >
            {picked.length > 1 ? `Name ${plural(picked.length, 'clip')}` : 'Name this card'}
          </Button>
          <Button
            size="small"
            disabled={picked.length === 0 || act.isPending}
            onClick={() =>
              act.mutate(async () => {
                const { added } = await server.makeProxies(
                  picked.filter((p) => {
                    const c = all.find((x) => x.id === p);
                    return c?.state === 'read' && c.pair.state !== 'proven' && !c.pair.made;
                  }),
                );
                return added > 0
                  ? `${plural(added, 'proxy', 'proxies')} queued`
                  : 'None of them needs a proxy';
              })
            }
          >
            Make proxies
          </Button>
          <Button
            size="small"
            disabled={picked.length === 0 || act.isPending}
            onClick={() => act.mutate(async () => comparedInWords(await server.provePairs(picked)))}
          >
            Prove again
          </Button>
          <Button
            size="small"
            disabled={picked.length === 0 || act.isPending}
            onClick={() =>
              act.mutate(async () => {
                await server.readAgain(picked);
                return `${plural(picked.length, 'clip')} being read again`;
              })
            }
          >
            Read again
          </Button>
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
      </div>
      <Dialog open={forgetting} onClose={() => setForgetting(false)}>
        <DialogTitle>Forget {id}?</DialogTitle>
        <DialogContent>
          The card leaves the job, for when it was taken in by mistake or under a wrong day. Its files stay on
          disk exactly as they are, and it can be taken in again.
        </DialogContent>
        <DialogActions>
          <Button
            color="error"
            onClick={() => {
              setForgetting(false);
              act.mutate(async () => {
                await server.forgetCard(id);
                router.push(address('/'));
                return '';
              });
            }}
          >
            Forget card
          </Button>
          <Button variant="contained" onClick={() => setForgetting(false)} autoFocus>
            Cancel
          </Button>
        </DialogActions>
      </Dialog>
      {open ? (
        <Drawer clip={open} others={Math.max(0, picked.length - 1)} />
      ) : (
        <aside className={styles.noClip} />
      )}
    </div>
  );
}

/** Width of a tile, pixels. */
const TILE = 180;

/** The clips of a card as a sheet of frames. */
function CardFrames({
  card,
  only,
  ...of
}: Pick<SetProps, 'chosen' | 'focus' | 'choose'> & { card: string; only: boolean }) {
  const server = useServer();
  const view = useQuery({ queryKey: ['choose', 'view'], queryFn: server.choose });
  const keywords = useMemo(() => new Map(view.data?.keywords.map((k) => [k.id, k.name])), [view.data]);
  const wanted = useMemo(
    () => ({
      query: `card is ${asValue(card)}${only ? ' with problem' : ''}`,
      bin: null,
      by: 'none' as const,
      sort: null,
    }),
    [card, only],
  );
  return <ClipSet {...of} {...{ wanted, keywords }} view="frames" size={TILE} />;
}
