'use client';
import Autocomplete from '@mui/material/Autocomplete';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { plural } from '../platform/format';
import { type Column, COLUMNS } from './TypedCell';
import styles from './naming.module.css';

/** More are chosen from a list. */
const MOST_CARDS = 24;

interface Props {
  cards: readonly string[];
  chosenCards: readonly string[];
  chooseCards: (cards: string[]) => void;
  /** How many clips were chosen one by one; 0 where none were. */
  chosenClips: number;
  allClips: () => void;
  columns: readonly Column[];
  setColumns: (columns: Column[]) => void;
  selected: number;
  unselect: () => void;
  fill: (column: Column, value: string) => void;
  /** Names only the selected clips. */
  only: () => void;
  leaveOut: () => void;
  move: () => void;
  /** Opens what fills columns from elsewhere. */
  fillFrom: () => void;
}

/** Which clips are named, which columns are typed in, and what can be done with the selected rows. */
export function ListHead(props: Props) {
  const { cards, chosenCards, chooseCards, chosenClips, allClips, columns, setColumns, selected } = props;
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  const toggle = (id: string) =>
    chooseCards(chosenCards.includes(id) ? chosenCards.filter((c) => c !== id) : [...chosenCards, id]);
  if (selected > 0) return <Selected {...props} />;
  return (
    <div className={styles.cards} role="group" aria-label="Clips to name">
      <span className="soft">Cards</span>
      {chosenClips > 0 ? (
        <>
          <strong>{plural(chosenClips, 'chosen clip')} only</strong>
          <button type="button" onClick={allClips}>
            all clips
          </button>
        </>
      ) : (
        <>
          <button type="button" aria-pressed={chosenCards.length === 0} onClick={() => chooseCards([])}>
            all
          </button>
          {cards.length > MOST_CARDS ? (
            <Autocomplete
              multiple
              size="small"
              limitTags={3}
              options={cards}
              value={[...chosenCards]}
              onChange={(_, chosen) => chooseCards(chosen)}
              sx={{ flex: '1 1 260px', maxWidth: 460, '& .MuiOutlinedInput-root': { py: 0 } }}
              renderInput={(p) => (
                <TextField
                  {...p}
                  placeholder={chosenCards.length === 0 ? `or some of ${cards.length} cards` : undefined}
                  slotProps={{
                    ...p.slotProps,
                    htmlInput: { ...p.slotProps.htmlInput, 'aria-label': 'Cards to name' },
                  }}
                />
              )}
            />
          ) : (
            cards.map((c) => (
              <button
                key={c}
                type="button"
                className="figures"
                aria-pressed={chosenCards.includes(c)}
                onClick={() => toggle(c)}
              >
                {c}
              </button>
            ))
          )}
        </>
      )}
      <span style={{ flex: 1 }} />
      <button type="button" onClick={props.fillFrom}>
        Fill from …
      </button>
      <button type="button" aria-haspopup="menu" onClick={(e) => setMenu(e.currentTarget)}>
        Columns …
      </button>
      <Menu anchorEl={menu} open={menu !== null} onClose={() => setMenu(null)}>
        {COLUMNS.map((c) => {
          const on = columns.some((x) => x.field === c.field);
          return (
            <MenuItem
              key={c.field}
              dense
              role="menuitemcheckbox"
              aria-checked={on}
              onClick={() =>
                setColumns(COLUMNS.filter((x) => (x === c ? !on : columns.some((y) => y.field === x.field))))
              }
            >
              {on ? '✓ ' : ''}
              {c.term}
            </MenuItem>
          );
        })}
      </Menu>
    </div>
  );
}

function Selected({ selected, unselect, columns, fill, only, leaveOut, move }: Props) {
  const [value, setValue] = useState('');
  const [field, setField] = useState<string>(columns[0]?.field ?? COLUMNS[0]!.field);
  const column = COLUMNS.find((c) => c.field === field)!;
  return (
    <div className={styles.cards} role="group" aria-label="Selected clips">
      <strong>{plural(selected, 'clip')} selected</strong>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          fill(column, value);
        }}
      >
        <select aria-label="Field to fill" value={field} onChange={(e) => setField(e.target.value)}>
          {COLUMNS.map((c) => (
            <option key={c.field} value={c.field}>
              {c.term}
            </option>
          ))}
        </select>{' '}
        <input
          aria-label="Value for the selected clips"
          value={value}
          size={12}
          onChange={(e) => setValue(e.target.value)}
        />{' '}
        <button type="submit">Fill</button>
      </form>
      <button type="button" onClick={move}>
        Move to a day or card …
      </button>
      <button type="button" onClick={only}>
        Name only these
      </button>
      <button type="button" onClick={leaveOut}>
        Leave out
      </button>
      <button type="button" onClick={unselect} aria-label="Clear the selection">
        ×
      </button>
    </div>
  );
}
