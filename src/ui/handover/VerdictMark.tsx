import type { Verdict } from '../../core/handover';

const COLOURS: Record<Verdict, string> = {
  connects: 'var(--moss)',
  several: 'var(--ochreText)',
  fails: 'var(--brick)',
};
/** A thread from the edit at the left to the originals at the right: it arrives, it forks, it is broken off. */
const THREADS: Record<Verdict, string> = {
  connects: 'M5 8 H17',
  several: 'M5 8 H10 L17 3.5 M10 8 L17 12.5',
  fails: 'M5 8 H9 M9 5 V11 M14 5 V11',
};

/** How a clip of the edit finds its original; never without its word, seen or spoken. */
export const VerdictMark = ({ verdict }: { verdict: Verdict }) => (
  <svg
    width="24"
    height="16"
    viewBox="0 0 24 16"
    aria-hidden="true"
    fill="none"
    stroke={COLOURS[verdict]}
    strokeWidth="2"
    style={{ flex: 'none' }}
  >
    <circle cx="3.5" cy="8" r="2" fill={COLOURS[verdict]} />
    <path d={THREADS[verdict]} />
    {verdict === 'several' ? (
      <>
        <circle cx="19.5" cy="3.5" r="2" />
        <circle cx="19.5" cy="12.5" r="2" />
      </>
    ) : (
      <circle cx="19.5" cy="8" r="2" fill={verdict === 'connects' ? COLOURS[verdict] : 'none'} />
    )}
  </svg>
);
