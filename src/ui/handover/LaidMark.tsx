import type { LaidVerdict } from '../../core/handover';

export const LAID_COLOURS: Record<LaidVerdict, string> = {
  found: 'var(--moss)',
  rate: 'var(--ochreText)',
  outside: 'var(--brick)',
  unsure: 'var(--brick)',
  several: 'var(--ochreText)',
  missing: 'var(--brick)',
};

/** What became of an event: filled, striped for another rate, run over its edge, half empty for unknown frames, double for several, empty for missing. */
export const LaidMark = ({ verdict }: { verdict: LaidVerdict }) => {
  const colour = LAID_COLOURS[verdict];
  return (
    <svg width="18" height="14" viewBox="0 0 18 14" aria-hidden="true" style={{ flex: 'none' }}>
      {verdict === 'found' && <rect x="2" y="3" width="14" height="8" fill={colour} />}
      {verdict === 'rate' && (
        <path d="M2 3 H4 V11 H2 Z M6 3 H8 V11 H6 Z M10 3 H12 V11 H10 Z M14 3 H16 V11 H14 Z" fill={colour} />
      )}
      {verdict === 'outside' && (
        <>
          <rect x="2" y="3" width="8" height="8" fill={colour} />
          <path d="M11 7 H17 M14.5 4.5 L17 7 L14.5 9.5" fill="none" stroke={colour} strokeWidth="1.6" />
        </>
      )}
      {verdict === 'unsure' && (
        <>
          <rect x="2" y="3" width="14" height="8" fill="none" stroke={colour} strokeWidth="1.6" />
          <path d="M2 11 L9 3 H2 Z" fill={colour} />
        </>
      )}
      {verdict === 'several' && (
        <>
          <rect x="1" y="1" width="12" height="7" fill={colour} />
          <rect x="5" y="5" width="12" height="8" fill="var(--paper)" stroke={colour} strokeWidth="1.6" />
        </>
      )}
      {verdict === 'missing' && (
        <rect
          x="2"
          y="3"
          width="14"
          height="8"
          fill="none"
          stroke={colour}
          strokeWidth="1.6"
          strokeDasharray="3 2"
        />
      )}
    </svg>
  );
};
