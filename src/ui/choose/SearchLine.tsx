'use client';
import { type KeyboardEvent, type RefObject, useEffect, useId, useRef, useState } from 'react';
import { flushSync } from 'react-dom';
import { type Completion, completions, compileQuery, parseQuery, SearchFault } from '../../core/choose';
import { isTyping } from '../shell';
import styles from './choose.module.css';

/** What is wrong with a search; null where it is understood. */
export function faultOf(query: string): SearchFault | null {
  try {
    compileQuery(parseQuery(query));
    return null;
  } catch (e) {
    if (e instanceof SearchFault) return e;
    throw e;
  }
}

interface Props {
  text: string;
  set: (text: string) => void;
  /** What clips have of a field, to be offered. */
  values: (field: string) => readonly string[];
  /** Goes to what is found. */
  enter: () => void;
}

/**
 * The search as one line: what could come next is offered while it is typed, and what is not understood is shown at its place. A slash goes to
 * it from anywhere, Enter from it to what is found.
 */
export function SearchLine({ text, set, values, enter }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [caret, setCaret] = useState<number | null>(null);
  const [at, setAt] = useState(-1);
  const list = useId();
  const offered = caret === null ? [] : completions(text, caret, values);
  const fault = faultOf(text);
  const take = (c: Completion) => {
    const written = c.text.endsWith('(') ? c.text : `${c.text} `;
    const next = text.slice(0, c.from) + written + text.slice(c.to).trimStart();
    const now = c.from + written.length;
    // At once: the next letter may come before the screen is drawn.
    flushSync(() => {
      set(next);
      setAt(-1);
      setCaret(now);
    });
    input.current?.setSelectionRange(now, now);
  };
  useSlash(input);
  const press = (e: KeyboardEvent) => {
    e.stopPropagation();
    if (e.key === 'Escape') {
      // A browser would empty it.
      e.preventDefault();
      if (offered.length > 0) setCaret(null);
      else input.current?.blur();
    }
    if (e.key === 'Enter' && !offered[at] && fault === null && !e.nativeEvent.isComposing) enter();
    if (offered.length === 0) return;
    if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
      e.preventDefault();
      setAt((a) => (a + (e.key === 'ArrowDown' ? 1 : -1) + offered.length + 1) % (offered.length + 1));
    }
    const chosen = offered[at] ?? (e.key === 'Tab' && !e.shiftKey ? offered[0] : undefined);
    if (chosen && (e.key === 'Enter' || e.key === 'Tab')) {
      e.preventDefault();
      take(chosen);
    }
  };
  return (
    <div className={styles.search}>
      <input
        ref={input}
        type="search"
        role="combobox"
        aria-label="Search"
        aria-expanded={offered.length > 0}
        aria-controls={list}
        aria-invalid={fault !== null}
        aria-activedescendant={offered[at] ? `${list}${at}` : undefined}
        placeholder="Words, or: rate over 50 · no proxy · any(wheel, gate) · recorded before noon"
        spellCheck={false}
        autoComplete="off"
        value={text}
        onChange={(e) => {
          set(e.target.value);
          setCaret(e.target.selectionStart);
          setAt(-1);
        }}
        onClick={(e) => setCaret(e.currentTarget.selectionStart)}
        onBlur={() => setCaret(null)}
        onKeyDown={press}
      />
      {offered.length > 0 && (
        <ul id={list} role="listbox" aria-label="What could come next">
          {offered.map((c, i) => (
            <li
              key={c.text}
              id={`${list}${i}`}
              role="option"
              aria-selected={i === at}
              onPointerDown={(e) => {
                e.preventDefault();
                take(c);
              }}
            >
              <span className="figures">{c.text}</span> <span className="soft">{c.meaning}</span>
            </li>
          ))}
        </ul>
      )}
      {fault && caret === null && <Fault text={text} fault={fault} />}
    </div>
  );
}

/** The slash goes to a field from anywhere but another. Where it is a digit with Shift, as on many keyboards, that gives the keyword on it. */
function useSlash(field: RefObject<HTMLInputElement | null>): void {
  useEffect(() => {
    const press = (e: globalThis.KeyboardEvent) => {
      if (isTyping(e) || e.key !== '/' || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.shiftKey && e.code.startsWith('Digit')) return;
      e.preventDefault();
      field.current?.focus();
      field.current?.select();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [field]);
}

function Fault({ text, fault }: { text: string; fault: SearchFault }) {
  return (
    <p className={styles.fault} role="alert">
      <span className="figures">
        {text.slice(Math.max(0, fault.at - 24), fault.at)}
        <mark>{text.slice(fault.at, Math.min(fault.to, fault.at + 48))}</mark>
      </span>{' '}
      {fault.message}
    </p>
  );
}
