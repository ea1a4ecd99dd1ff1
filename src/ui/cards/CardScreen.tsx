'use client';
import { useQuery } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
import { asValue } from '../../core/choose';
import { suspicionOf } from '../../core/facts';
import { useAddress, useServer } from '../platform/job';
import Link from '../platform/Link';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useCard, useSuspicions } from '../platform/queries';
import { Tag } from '../platform/Tag';
import styles from './card.module.css';
import { CardFoot } from './CardFoot';
import { CardHead } from './CardHead';
import { ClipSet, type SetProps, type SetView } from './ClipSet';
import { ClipTable } from './ClipTable';
import { Drawer } from './Drawer';
import { Spines } from './Spines';
import { useClipChoice } from './useClipChoice';

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
  const card = useCard(id);
  const suspicions = useSuspicions(card.isSuccess).data ?? [];
  const [view, setView] = useState<SetView>('spines');
  const [only, setOnly] = useState(problemsOnly);
  const [said, setSaid] = useState<string | null>(null);

  const all = useMemo(() => card.data?.views ?? [], [card.data]);
  const clips = useMemo(() => (only ? all.filter((c) => c.problems.length > 0) : all), [all, only]);
  const unsay = useCallback(() => setSaid(null), []);
  const { chosen, focus, choose, take } = useClipChoice(clips, { first: clip, view, changed: unsay });

  if (card.error)
    return (
      <div style={{ padding: 20, display: 'grid', gap: 12 }}>
        <ErrorNotice error={card.error} again={() => void card.refetch()} />
        <Link href={address('/')}>To the Wall</Link>
      </div>
    );
  if (!card.data) return null;
  const { stop, look } = card.data;
  const oddities = [...suspicions.flatMap((s) => suspicionOf(card.data, s) ?? []), ...card.data.oddities];
  const problems = stop + look + oddities.length - card.data.oddities.length;
  const picked = clips.filter((c) => chosen.has(c.id));
  const open = clips.find((c) => c.id === focus) ?? picked[0] ?? null;
  return (
    <div className={styles.screen}>
      <div className={styles.main}>
        <CardHead card={card.data} problems={problems} {...{ only, setOnly, view, setView }} />
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
            <CardFrames card={id} {...{ only, chosen, focus }} choose={take} />
          ) : (
            <ClipTable clips={clips} chosen={chosen} setChosen={take} />
          )}
        </div>
        <CardFoot card={id} shown={clips.length} {...{ picked, said }} say={setSaid} />
      </div>
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
