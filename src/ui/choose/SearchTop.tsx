'use client';
import { useEffect, useRef, useState } from 'react';
import { parseQuery, queryText } from '../../core/choose';
import styles from './choose.module.css';
import { SearchHelp } from './SearchHelp';
import { faultOf, SearchLine } from './SearchLine';
import { SearchRows } from './SearchRows';

/** Milliseconds after the last letter until it is searched for. */
const TYPING = 20;

/**
 * The search, typed or built of rows. What is typed is kept here until a moment after the last letter: the rest of the screen is not drawn
 * anew at each.
 */
export function SearchTop({
  query,
  find,
  values,
  enter,
}: {
  query: string;
  find: (query: string) => void;
  values: (field: string) => readonly string[];
  /** Goes to what a search finds. */
  enter: (query: string) => void;
}) {
  const [rows, setRows] = useState(false);
  const [help, setHelp] = useState(false);
  const [typed, setTyped] = useState<string | null>(null);
  const [sent, setSent] = useState(query);
  const [seen, setSeen] = useState(query);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  // What is searched for otherwise, by a click on a keyword, takes the place of what was typed.
  if (seen !== query) {
    setSeen(query);
    if (query !== sent || query === typed) setTyped(null);
  }
  useEffect(() => () => clearTimeout(timer.current), []);
  const send = (text: string) => {
    clearTimeout(timer.current);
    setSent(text);
    find(text);
  };
  const type = (text: string) => {
    setTyped(text);
    clearTimeout(timer.current);
    timer.current = setTimeout(() => send(text), TYPING);
  };
  const text = typed ?? query;
  const fault = faultOf(text);
  return (
    <>
      <div className={styles.top}>
        <SearchLine
          text={text}
          set={type}
          values={values}
          enter={() => {
            if (text !== query) send(text);
            enter(text);
          }}
        />
        <button
          type="button"
          aria-pressed={rows}
          title={fault ? 'The search is not understood yet' : 'The same search as rows'}
          disabled={fault !== null}
          onClick={() => setRows(!rows)}
        >
          Rows
        </button>
        <button
          type="button"
          aria-label="How a search is written"
          title="How a search is written"
          onClick={() => setHelp(true)}
        >
          ?
        </button>
      </div>
      {help && (
        <SearchHelp
          take={(search) => {
            setHelp(false);
            type(search);
          }}
          close={() => setHelp(false)}
        />
      )}
      {rows && !fault && <SearchRows query={parseQuery(text)} set={(q) => type(queryText(q))} />}
    </>
  );
}
