import type { ReactNode } from 'react';

const TONES = {
  stop: { color: 'var(--brick)', mark: '!' },
  look: { color: 'var(--ochreText)', mark: '?' },
  proven: { color: 'var(--moss)', mark: '✓' },
  plain: { color: 'var(--soft)', mark: '' },
} as const;

/** A small label with its own mark, so that no meaning hangs on colour alone. */
export function Tag({
  tone,
  title,
  children,
}: {
  tone: keyof typeof TONES;
  title?: string;
  children: ReactNode;
}) {
  const { color, mark } = TONES[tone];
  return (
    <span
      title={title}
      style={{
        border: `1px solid ${color}`,
        color,
        borderRadius: 3,
        padding: '0 6px',
        fontWeight: 700,
        fontSize: 12,
        lineHeight: '19px',
        whiteSpace: 'nowrap',
        background: 'var(--paper)',
      }}
    >
      {mark && <span aria-hidden="true">{mark} </span>}
      {children}
    </span>
  );
}
