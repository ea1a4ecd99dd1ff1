'use client';
import { type ReactNode, type Ref, useState } from 'react';
import { formatCount } from '../platform/format';
import { keep, kept } from '../platform/kept';
import styles from './choose.module.css';

interface Props {
  name: string;
  /** How many it has, which is said while they are folded away. */
  amount: number;
  /** What stands beside the heading. */
  buttons: ReactNode;
  /** What can be dropped on the heading. */
  drop?: { ref: Ref<HTMLElement>; over: boolean };
  list: ReactNode;
  /** What is shown above the list, folded or not. */
  children?: ReactNode;
}

/** One of the lists at the left of Choose. It folds away under its heading, and stays so in this browser. */
export function SideList({ name, amount, buttons, drop, list, children }: Props) {
  const key = `choose folded ${name}`;
  const [folded, setFolded] = useState(() => kept(key) === 'yes');
  const fold = () => {
    keep(key, folded ? 'no' : 'yes');
    setFolded(!folded);
  };
  return (
    <section aria-label={name}>
      <header ref={drop?.ref} data-over={drop?.over ? '' : undefined}>
        <h2>
          <button type="button" aria-expanded={!folded} onClick={fold}>
            <span className={styles.fold} aria-hidden>
              {folded ? '▸' : '▾'}
            </span>
            {name}
            {folded && <span className="figures soft">&nbsp;{formatCount(amount)}</span>}
          </button>
        </h2>
        {buttons}
      </header>
      {children}
      {!folded && list}
    </section>
  );
}
