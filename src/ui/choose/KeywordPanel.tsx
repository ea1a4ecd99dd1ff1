'use client';
import { type RefObject, useId, useState } from 'react';
import { completeKeyword, type KeywordView } from '../../core/choose';
import { plural } from '../platform/format';
import styles from './choose.module.css';

interface Props {
  keywords: readonly KeywordView[];
  /** Ids of those the clip in the drawer has. */
  has: readonly string[];
  /** Of those the ones that only rules gave. */
  ruled?: readonly string[];
  /** How many clips get what is given here. */
  clips: number;
  give: (name: string) => void;
  take: (keyword: string) => void;
  input?: RefObject<HTMLInputElement | null>;
  label?: string;
}

/** More keywords than this would leave the player no room: they scroll. */
const MANY = 12;

/** Keywords of what is chosen: given by typing, with completion; taken away one by one. */
export function KeywordPanel({
  keywords,
  has,
  ruled = [],
  clips,
  give,
  take,
  input,
  label = 'Add a keyword',
}: Props) {
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(-1);
  const list = useId();
  const offered = typed.trim() === '' ? [] : completeKeyword(keywords, typed);
  const enter = (name: string) => {
    if (name.trim() === '') return;
    give(name);
    setTyped('');
    setAt(-1);
  };
  const given = <Given {...{ keywords, has, ruled, take }} />;
  return (
    <div className={styles.words}>
      {has.length > MANY ? <div className={styles.many}>{given}</div> : given}
      <span className={styles.typing}>
        <input
          ref={input}
          role="combobox"
          aria-label={label}
          aria-expanded={offered.length > 0}
          aria-controls={list}
          aria-activedescendant={offered[at] ? `${list}${at}` : undefined}
          placeholder={clips > 1 ? `keyword for ${plural(clips, 'clip')}` : 'keyword'}
          value={typed}
          onChange={(e) => {
            setTyped(e.target.value);
            setAt(-1);
          }}
          onBlur={() => setAt(-1)}
          onKeyDown={(e) => {
            e.stopPropagation();
            if (e.key === 'Enter') enter(offered[at]?.name ?? typed);
            else if (e.key === 'Tab' && offered[0] && typed !== '') {
              e.preventDefault();
              enter(offered[Math.max(0, at)]!.name);
            } else if (e.key === 'Escape') {
              setTyped('');
              e.currentTarget.blur();
            } else if ((e.key === 'ArrowDown' || e.key === 'ArrowUp') && offered.length > 0) {
              e.preventDefault();
              setAt(
                (a) => (a + (e.key === 'ArrowDown' ? 1 : -1) + offered.length + 1) % (offered.length + 1),
              );
            }
          }}
        />
        {offered.length > 0 && (
          <ul id={list} role="listbox" aria-label="Keywords that fit">
            {offered.map((k, i) => (
              <li
                key={k.id}
                id={`${list}${i}`}
                role="option"
                aria-selected={i === at}
                onPointerDown={(e) => {
                  e.preventDefault();
                  enter(k.name);
                }}
              >
                {k.name} <span className="soft">{k.clips}</span>
              </li>
            ))}
          </ul>
        )}
      </span>
    </div>
  );
}

/** Keywords that are given already, each with the way to take it away. */
function Given({
  keywords,
  has,
  ruled,
  take,
}: Pick<Props, 'keywords' | 'has' | 'take'> & { ruled: readonly string[] }) {
  return has.flatMap((id) => {
    const k = keywords.find((x) => x.id === id);
    return k ? (
      <span key={id} className={styles.word}>
        {k.name}
        {ruled.includes(id) && (
          <span className="soft" title="Given by a rule">
            &nbsp;(rule)
          </span>
        )}
        <button type="button" aria-label={`Take ${k.name} away`} onClick={() => take(id)}>
          ×
        </button>
      </span>
    ) : (
      []
    );
  });
}
