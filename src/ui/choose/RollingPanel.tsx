'use client';
import { useMutation } from '@tanstack/react-query';
import { apartText, type RollingView } from '../../core/choose';
import { fps } from '../../core/platform/timecode/rate';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './rolling.module.css';
import type { Acts } from './useChanges';

interface Props {
  /** The clip that is open. */
  clip: string;
  rolling: RollingView;
  acts: Acts;
  /** Opens another clip. */
  show: (clip: string) => void;
}

type One = RollingView['clips'][number];

const BY: Record<One['by'], string> = { timecode: 'timecode', clock: 'clock', person: 'you' };

/** What ran at the same time as a clip: how far apart each begins, and what the sound says of that. */
export function RollingPanel({ clip, rolling, acts, show }: Props) {
  const server = useServer();
  const listen = useMutation({
    mutationFn: () => server.listen(clip),
    onSuccess: ({ faults }) => {
      if (faults.length > 0) throw new Error(faults.join(' '));
    },
  });
  const { id, clips, more } = rolling;
  const here = clips.find((c) => c.clip === clip)?.offset ?? 0;
  const others = clips.filter((c) => c.clip !== clip);
  const heard = clips.some((c) => c.sound !== null);
  // Of very many not all are shown, and all of them are not confirmed unseen.
  const not = more > 0 ? 'There are more than are shown' : undefined;
  const keep = (those: readonly One[], offsets: (c: One) => number = (c) => c.offset) =>
    acts.change({
      do: 'rollTogether',
      clips: those.map((c) => ({ clip: c.clip, offset: offsets(c) })),
      was: id,
    });
  const off = clips.some(
    (c) => Math.abs((c.sound?.offset ?? c.offset) - c.offset) * fps(rolling.rate) >= 0.5,
  );
  return (
    <section className={styles.rolling} aria-label="Rolling together">
      <h3>
        Rolling together <span className="soft">{id === null ? 'as it seems' : 'confirmed'}</span>
      </h3>
      <ErrorNotice error={listen.error} close={() => listen.reset()} />
      <ul>
        {others.map((c) => (
          <Other
            key={c.clip}
            one={c}
            {...{ here, rolling, show }}
            fixed={not !== undefined || clips.length < 3}
            out={() => keep(clips.filter((o) => o.clip !== c.clip))}
          />
        ))}
      </ul>
      {more > 0 && <p className="soft">and {plural(more, 'clip')} more</p>}
      <div className={styles.acts}>
        {/* What changes its words, comes or goes stands behind: the next click would meet another button. */}
        <button
          type="button"
          disabled={not !== undefined}
          title={not}
          onClick={() => acts.change({ do: 'takeApart', clips: clips.map((c) => c.clip), was: id })}
        >
          Not together
        </button>
        {id === null && (
          <button type="button" disabled={not !== undefined} title={not} onClick={() => keep(clips)}>
            Confirm
          </button>
        )}
        <button
          type="button"
          disabled={rolling.reference === null || listen.isPending}
          title={rolling.reference === null ? 'None of them has sound' : 'Compare their sound'}
          onClick={() => listen.mutate()}
        >
          {listen.isPending ? 'Comparing sound …' : heard ? 'Compare again' : 'Compare sound'}
        </button>
        {off && (
          <button
            type="button"
            disabled={not !== undefined}
            title={not}
            onClick={() => keep(clips, (c) => c.sound?.offset ?? c.offset)}
          >
            Place them by sound
          </button>
        )}
      </div>
    </section>
  );
}

/** What the sound says of where a clip stands. */
function soundWords(c: One, { rate, reference }: RollingView): string {
  if (c.clip === reference) return 'the others are compared with its sound';
  if (c.sound === null) return 'sound not compared';
  if (c.sound.offset === null) return 'the sound does not tell';
  const frames = (c.sound.offset - c.offset) * fps(rate);
  if (Math.abs(frames) < 0.5) return 'the sound agrees';
  const n = Math.round(Math.abs(frames));
  return `by sound ${plural(n, 'frame')} ${frames < 0 ? 'earlier' : 'later'}`;
}

/** Another clip of the group. */
function Other({
  one: c,
  here,
  rolling,
  show,
  fixed,
  out,
}: {
  one: One;
  /** Where the clip that is open begins. */
  here: number;
  rolling: RollingView;
  show: (clip: string) => void;
  /** Whether it cannot be taken out. */
  fixed: boolean;
  out: () => void;
}) {
  return (
    <li>
      <button type="button" className="figures" onClick={() => show(c.clip)}>
        {c.name}
      </button>
      <span className="soft">{c.kind === 'sound' ? 'sound' : `camera ${c.camera}`}</span>
      <span className="figures" title={`How long after this clip it begins, by ${BY[c.by]}`}>
        {apartText(c.offset - here, rolling.rate)}
      </span>
      <span className="soft">by {BY[c.by]}</span>
      <button
        type="button"
        aria-label={`Take ${c.name} out of what rolls together`}
        title="It does not belong to them"
        disabled={fixed}
        onClick={out}
      >
        ×
      </button>
      <span className={styles.sound}>{soundWords(c, rolling)}</span>
    </li>
  );
}
