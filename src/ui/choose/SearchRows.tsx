'use client';
import { type Op, OPS, type Part, type Query, SEARCH_FIELDS, searchField } from '../../core/choose';
import styles from './choose.module.css';

type Test = Extract<Part, { kind: 'test' }>;
type Group = Extract<Part, { kind: 'group' }>;

const HOW_WORDS = { all: 'all of these', any: 'any of these', none: 'none of these' } as const;

/** The same search as rows to pick from. */
export function SearchRows({ query, set }: { query: Query; set: (query: Query) => void }) {
  return (
    <div className={styles.rows} role="group" aria-label="Search by rows">
      <Parts parts={query} set={set} />
    </div>
  );
}

function Parts({ parts, set }: { parts: readonly Part[]; set: (parts: Part[]) => void }) {
  const put = (i: number, part: Part | null) => set(parts.flatMap((p, n) => (n === i ? (part ?? []) : [p])));
  const first: Test = { kind: 'test', field: 'rate', op: 'over', value: '25', to: '' };
  return (
    <>
      {parts.map((part, i) => (
        <div key={i} className={styles.row}>
          {part.kind === 'group' ? (
            <GroupRow part={part} set={(p) => put(i, p)} />
          ) : part.kind === 'test' ? (
            <TestRow part={part} set={(p) => put(i, p)} />
          ) : (
            <>
              <span>words</span>
              <input
                aria-label="Words"
                value={part.text}
                onChange={(e) => put(i, { kind: 'words', text: e.target.value })}
              />
            </>
          )}
          <button type="button" aria-label="Take this row out" onClick={() => put(i, null)}>
            ×
          </button>
        </div>
      ))}
      <div className={styles.row}>
        <button type="button" onClick={() => set([...parts, first])}>
          + condition
        </button>
        <button type="button" onClick={() => set([...parts, { kind: 'words', text: 'words' }])}>
          + words
        </button>
        <button type="button" onClick={() => set([...parts, { kind: 'group', how: 'any', of: [first] }])}>
          + group
        </button>
      </div>
    </>
  );
}

function GroupRow({ part, set }: { part: Group; set: (part: Part | null) => void }) {
  return (
    <div className={styles.group}>
      <select
        aria-label="How many of the group"
        value={part.how}
        onChange={(e) => set({ ...part, how: e.target.value as Group['how'] })}
      >
        {Object.entries(HOW_WORDS).map(([how, words]) => (
          <option key={how} value={how}>
            {words}
          </option>
        ))}
      </select>
      <Parts parts={part.of} set={(of) => set(of.length === 0 ? null : { ...part, of })} />
    </div>
  );
}

const valueFor = (word: string): string => {
  const field = searchField(word)!;
  return (
    field.states?.[0] ??
    {
      number: '25',
      rate: 'edit',
      seconds: '10s',
      bytes: '1GB',
      flag: 'yes',
      moment: 'noon',
      timecode: '10:00:00:00',
      text: 'x',
      list: 'x',
      state: 'x',
    }[field.type]
  );
};

function TestRow({ part, set }: { part: Test; set: (part: Part) => void }) {
  const field = searchField(part.field);
  const ops = field ? OPS[field.type] : [];
  const valued = part.op !== 'with' && part.op !== 'no';
  const turn = (op: Op): Test => ({
    ...part,
    op,
    value: op === 'with' || op === 'no' ? '' : part.value || valueFor(part.field),
    to: op === 'between' ? part.to || part.value || valueFor(part.field) : '',
  });
  return (
    <>
      <select
        aria-label="Field"
        value={part.field}
        onChange={(e) => {
          const [op] = OPS[searchField(e.target.value)!.type];
          set({ kind: 'test', field: e.target.value, op: op!, value: valueFor(e.target.value), to: '' });
        }}
      >
        {SEARCH_FIELDS.map((f) => (
          <option key={f.word} value={f.word} title={f.meaning}>
            {f.term}
          </option>
        ))}
      </select>
      <select aria-label="Compared" value={part.op} onChange={(e) => set(turn(e.target.value as Op))}>
        {ops.map((o) => (
          <option key={o} value={o}>
            {o === 'with' ? 'is there' : o === 'no' ? 'is not there' : o}
          </option>
        ))}
      </select>
      {valued && field?.states && (
        <select
          aria-label="Value"
          value={part.value}
          onChange={(e) => set({ ...part, value: e.target.value })}
        >
          {field.states.map((s) => (
            <option key={s}>{s}</option>
          ))}
        </select>
      )}
      {valued && !field?.states && (
        <input
          aria-label="Value"
          value={part.value}
          onChange={(e) => set({ ...part, value: e.target.value })}
        />
      )}
      {part.op === 'between' && (
        <>
          and
          <input
            aria-label="Second value"
            value={part.to}
            onChange={(e) => set({ ...part, to: e.target.value })}
          />
        </>
      )}
    </>
  );
}
