import type { BinLabel } from '../../core/choose';

const MARKS: Record<BinLabel, { colour: string; shape: React.ReactNode }> = {
  disc: { colour: 'var(--moss)', shape: <circle cx="6" cy="6" r="5" /> },
  square: { colour: 'var(--harbour)', shape: <rect x="1.5" y="1.5" width="9" height="9" /> },
  triangle: { colour: 'var(--ochre)', shape: <path d="M6 1 L11.5 11 H0.5 Z" /> },
  diamond: { colour: 'var(--brick)', shape: <path d="M6 0.5 L11.5 6 L6 11.5 L0.5 6 Z" /> },
  ring: {
    colour: 'var(--ink)',
    shape: <path d="M6 1 a5 5 0 1 0 .01 0 M6 3.6 a2.4 2.4 0 1 1 -.01 0" fillRule="evenodd" />,
  },
  bar: { colour: 'var(--soft)', shape: <rect x="0.5" y="4" width="11" height="4" /> },
};

/** The mark of a bin: a shape of its own in a colour of its own; an empty tray where it has none. */
export function BinMark({ label }: { label: BinLabel | null }) {
  const mark = label && MARKS[label];
  return (
    <svg width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={label ? `label: ${label}` : 'bin'}>
      {mark ? (
        <g fill={mark.colour}>{mark.shape}</g>
      ) : (
        <path
          d="M1 3 V10.5 H11 V3 M1 6.5 H4 L5 8 H7 L8 6.5 H11"
          fill="none"
          stroke="var(--soft)"
          strokeWidth="1.2"
        />
      )}
    </svg>
  );
}
