'use client';
import styles from './Ticks.module.css';

/** A line of things of which some are ticked; without a line where there are none. */
export function Ticks<V extends string>({
  word,
  options,
  chosen,
  set,
}: {
  word: string;
  options: readonly (readonly [V, string])[];
  chosen: readonly V[];
  set: (chosen: V[]) => void;
}) {
  if (options.length === 0) return null;
  return (
    <span role="group" aria-label={word} className={styles.ticks}>
      <span className="soft">{word}</span>
      {options.map(([v, said]) => (
        <label key={v}>
          <input
            type="checkbox"
            checked={chosen.includes(v)}
            onChange={() =>
              set(options.map(([o]) => o).filter((o) => (o === v ? !chosen.includes(o) : chosen.includes(o))))
            }
          />
          {said}
        </label>
      ))}
    </span>
  );
}
