import { PAIR_WORDS, type PairState } from '../../core/proxies';

const COLOURS: Record<PairState, string> = {
  none: 'var(--soft)',
  missing: 'var(--brick)',
  waiting: 'var(--ochreText)',
  unproven: 'var(--ochreText)',
  proven: 'var(--moss)',
  mismatched: 'var(--brick)',
  lost: 'var(--brick)',
};

/**
 * The pair mark: two leaves of a book, left the original, right the proxy. Filled is present and proven, hatched present and
 * unproven, outlined missing, dashed none needed, dotted on its way, struck mismatched, crossed lost. Never without its word, seen
 * or spoken.
 */
export function PairMark({
  state,
  size = 18,
  words = false,
}: {
  state: PairState;
  size?: number;
  words?: boolean;
}) {
  const colour = COLOURS[state];
  const left = 'M9 3 Q5 1.6 1 2.4 V12.6 Q5 11.8 9 13 Z';
  const right = 'M10 3 Q14 1.6 18 2.4 V12.6 Q14 11.8 10 13 Z';
  return (
    <span style={{ display: 'inline-flex', alignItems: 'center', gap: 6, color: colour, fontWeight: 700 }}>
      <svg
        width={size}
        height={(size * 15) / 19}
        viewBox="0 0 19 15"
        role={words ? 'presentation' : 'img'}
        aria-label={words ? undefined : `pair: ${PAIR_WORDS[state]}`}
      >
        <path d={left} fill={colour} stroke={colour} strokeWidth="1.2" />
        <path
          d={right}
          fill={state === 'proven' ? colour : 'var(--paper)'}
          stroke={colour}
          strokeWidth="1.2"
          {...(state === 'none' ? { strokeDasharray: '1.6 2.2' } : {})}
        />
        {state === 'waiting' &&
          [11.8, 14, 16.2].map((x) => <circle key={x} cx={x} cy="8" r="0.8" fill={colour} />)}
        {state === 'lost' && <path d="M11 4.5 L17 11.5 M17 4.5 L11 11.5" stroke={colour} strokeWidth="1.6" />}
        {state === 'unproven' && (
          <path d="M11 11 L17 4.5 M11 7.5 L15 3.2 M13.5 12 L17.5 7.8" stroke={colour} strokeWidth="1.3" />
        )}
        {state === 'mismatched' && <path d="M10.5 12.5 L17.5 3" stroke={colour} strokeWidth="2" />}
      </svg>
      {words && <span>{PAIR_WORDS[state]}</span>}
    </span>
  );
}
