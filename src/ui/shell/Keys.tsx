'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';

const GROUPS: readonly { name: string; keys: readonly (readonly [string, string])[] }[] = [
  {
    name: 'Everywhere',
    keys: [
      ['1 … 7', 'Wall, Intake, Facts, Naming, Proxies, Choose, Hand over'],
      ['0', 'All jobs'],
      ['v', 'Places: volumes and folders'],
      ['g', 'Logbook'],
      ['?', 'This list'],
      ['Tab', 'Next control'],
      ['Esc', 'Close'],
    ],
  },
  {
    name: 'Card',
    keys: [
      ['← →', 'Clip before, clip after'],
      ['Shift ← →', 'Choose more'],
      ['Home End', 'First clip, last clip'],
      ['Ctrl A', 'Choose all'],
    ],
  },
  {
    name: 'Viewer',
    keys: [
      ['Space', 'Play, stop'],
      ['J K L', 'Back, stop, forward; again for faster'],
      [', .', 'One frame back, on'],
      ['Shift , .', 'Ten frames back, on'],
      ['P', 'Switch between original and proxy'],
      ['B D', 'Both side by side; their difference'],
      ['I O X', 'In, out, clear'],
    ],
  },
  {
    name: 'Choose',
    keys: [
      ['/', 'Go to the search; Enter goes to what it finds'],
      ['← → ↑ ↓', 'From clip to clip; Shift takes more'],
      ['S R N', 'Keep the part as select, reject; a note on it'],
      ['A', 'Play the selects of the clip'],
      ['W', 'Type a keyword for the chosen clips'],
      ['Shift 1 … 9', 'Give the keyword on that key'],
      ['Ctrl Z', 'Undo; with Shift, redo'],
      ['F2 Delete', 'Rename, remove a bin'],
      ['Shift F10', 'More about a bin, a search, a string-out, a keyword'],
    ],
  },
  {
    name: 'Intake',
    keys: [
      ['← → ↑ ↓', 'From clip to clip'],
      ['Space', 'Tick, untick'],
      ['Shift Space', 'Tick from the last to here'],
      ['Shift ← →', 'Take more with it'],
      ['Ctrl A', 'Tick all'],
      ['Enter', 'Play'],
      ['S', 'Split numbered stills into single ones'],
      ['Alt and drag', 'Untick by rectangle'],
    ],
  },
  {
    name: 'Facts',
    keys: [
      ['↑ ↓', 'From clip to clip'],
      ['Shift ↑ ↓', 'Choose more'],
      ['Ctrl A', 'Choose all in the table'],
      ['Esc', 'Choose none'],
    ],
  },
  {
    name: 'Naming',
    keys: [
      ['Space on a block', 'Pick it up; ← → move it, Space drops it'],
      ['Delete on a block', 'Take it out'],
      ['↑ ↓ on a row', 'The next clip; Space chooses it, Shift Space all up to it'],
    ],
  },
];

/** Every key, listed. */
export function Keys({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close} maxWidth="lg">
      <DialogTitle>Keys</DialogTitle>
      <DialogContent
        // Where it does not fit it is scrolled by the keyboard, too.
        tabIndex={0}
        sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fit, minmax(300px, 1fr))', gap: 3 }}
      >
        {GROUPS.map((g) => (
          <section key={g.name}>
            <h2>{g.name}</h2>
            <table>
              <tbody>
                {g.keys.map(([k, what]) => (
                  <tr key={k}>
                    <td
                      className="figures"
                      style={{ paddingRight: 16, whiteSpace: 'nowrap', fontWeight: 700 }}
                    >
                      {k}
                    </td>
                    <td>{what}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </section>
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
