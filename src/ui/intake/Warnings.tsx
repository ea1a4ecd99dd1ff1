import type { LookedCard } from '../../core/intake/shapes';
import { Tag } from '../platform/Tag';

/** What a person should look at before a card is copied or taken in: doubts, and numbers that are missing. */
export function Warnings({ card }: { card: Pick<LookedCard, 'doubts' | 'gaps'> }) {
  return (
    <>
      {card.doubts.map((d) => (
        <Tag key={d} tone="look">
          {d}
        </Tag>
      ))}
      {card.gaps.map((g) => (
        <Tag key={g.from} tone="look">
          {g.count === 1 ? `${g.from} is missing` : `${g.from} to ${g.to} are missing`}
        </Tag>
      ))}
    </>
  );
}
