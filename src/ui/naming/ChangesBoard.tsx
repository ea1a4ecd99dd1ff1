'use client';
import { type Change, CHANGE_TERMS, faultOf, newChange } from '../../core/naming/changes';
import { Choice, Count, Field } from './SettingInput';
import styles from './naming.module.css';

/** What is changed in the name once its blocks are put together, in order. */
export function ChangesBoard({
  changes,
  set,
}: {
  changes: readonly Change[];
  set: (changes: Change[]) => void;
}) {
  const put = (change: Change) => set(changes.map((c) => (c.id === change.id ? change : c)));
  const add = (kind: Change['kind']) => {
    let n = changes.length;
    while (changes.some((c) => c.id === `${kind}-${n}`)) n++;
    set([...changes, newChange(kind, `${kind}-${n}`)]);
  };
  return (
    <div className={styles.changes} role="group" aria-label="Changes to the whole name">
      {changes.map((c) => (
        <ChangeLine
          key={c.id}
          change={c}
          put={put}
          remove={() => set(changes.filter((x) => x.id !== c.id))}
        />
      ))}
      <div className={styles.settings}>
        {changes.length === 0 && <span className="soft">The name is as the blocks make it.</span>}
        {changes.length < 10 &&
          (Object.keys(CHANGE_TERMS) as Change['kind'][]).map((kind) => (
            <button key={kind} type="button" className={styles.more} onClick={() => add(kind)}>
              + {CHANGE_TERMS[kind].toLowerCase()}
            </button>
          ))}
      </div>
    </div>
  );
}

function ChangeLine({
  change: c,
  put,
  remove,
}: {
  change: Change;
  put: (change: Change) => void;
  remove: () => void;
}) {
  return (
    <div className={styles.settings}>
      <strong>{CHANGE_TERMS[c.kind]}</strong>
      {c.kind === 'replace' && (
        <>
          <Field
            label="find"
            value={c.find}
            most={200}
            wide
            set={(find) => find !== '' && put({ ...c, find })}
          />
          <Field label="put" value={c.with} most={120} wide set={(by) => put({ ...c, with: by })} />
          <Choice
            label="as"
            value={c.expression ? 'expression' : 'plain'}
            options={[
              ['plain', 'plain text'],
              ['expression', 'regular expression'],
            ]}
            set={(v) => put({ ...c, expression: v === 'expression' })}
          />
          <label>
            <input
              type="checkbox"
              checked={c.anyCase}
              onChange={(e) => put({ ...c, anyCase: e.target.checked })}
            />{' '}
            in any case
          </label>
          {faultOf(c) && (
            <span role="alert" className={styles.fault}>
              {faultOf(c)}
            </span>
          )}
        </>
      )}
      {c.kind === 'letters' && (
        <Choice
          label="become"
          value={c.to}
          options={[
            ['upper', 'CAPITALS'],
            ['lower', 'small'],
            ['capitals', 'Small With Capitals'],
          ]}
          set={(to) => put({ ...c, to })}
        />
      )}
      {c.kind === 'trim' && (
        <>
          <Count
            label="characters at the start"
            value={c.start}
            least={0}
            most={200}
            set={(start) => put({ ...c, start })}
          />
          <Count label="at the end" value={c.end} least={0} most={200} set={(end) => put({ ...c, end })} />
        </>
      )}
      <button
        type="button"
        className={styles.more}
        aria-label={`Take out ${CHANGE_TERMS[c.kind]}`}
        onClick={remove}
      >
        Take out
      </button>
    </div>
  );
}
