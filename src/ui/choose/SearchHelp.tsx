'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { OPS, SEARCH_FIELDS } from '../../core/choose';
import styles from './choose.module.css';

const EXAMPLES: readonly (readonly [search: string, what: string])[] = [
  ['wheel gate', 'both words, anywhere: in names, facts, keywords and notes'],
  ['"mill wheel"', 'the words one after another'],
  ['keyword is wheel', 'a keyword; has finds a part of one'],
  ['rate over 50', 'also under, from (at least), to (at most), is'],
  ['length between 10s and 1:30', 'lengths as 10s, 2min or 1:30; sizes as 2GB'],
  ['recorded before noon day is 2', 'days as 2026-05-06, times as 14:30'],
  ['no proxy', 'what has none; with select finds what has one'],
  ['any(wheel, gate) none(rain)', 'one of these, and not that; all( … ) within them'],
];

/** How a search is written: examples that can be tried, and every field. */
export function SearchHelp({ take, close }: { take: (search: string) => void; close: () => void }) {
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle>How a search is written</DialogTitle>
      <DialogContent className={styles.help}>
        <table aria-label="Examples">
          <tbody>
            {EXAMPLES.map(([search, what]) => (
              <tr key={search}>
                <td>
                  <button
                    type="button"
                    className="figures"
                    title="Search for this"
                    onClick={() => take(search)}
                  >
                    {search}
                  </button>
                </td>
                <td>{what}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <h3>Fields</h3>
        <table aria-label="Fields">
          <thead>
            <tr>
              <th>Written</th>
              <th>Field</th>
              <th>Compared by</th>
              <th>What it is</th>
            </tr>
          </thead>
          <tbody>
            {SEARCH_FIELDS.map((f) => (
              <tr key={f.word}>
                <td className="figures">{f.word}</td>
                <td>{f.term}</td>
                <td>
                  {f.states?.join(', ') ?? OPS[f.type].filter((o) => o !== 'with' && o !== 'no').join(', ')}
                </td>
                <td>{f.meaning}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
