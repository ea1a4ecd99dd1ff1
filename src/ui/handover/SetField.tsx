'use client';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type ChosenSet, SET_WORDS, type SetKind, type useSets } from './useSets';

/** Which clips something is done with. */
export function SetField({
  chosen,
  sets,
  set,
}: {
  chosen: ChosenSet;
  sets: ReturnType<typeof useSets>;
  set: (next: Partial<ChosenSet>) => void;
}) {
  const { kind } = chosen;
  const options = sets[kind];
  return (
    <fieldset>
      <legend>Which clips</legend>
      <TextField
        select
        size="small"
        label="Clips"
        value={kind}
        onChange={(e) => {
          const next = e.target.value as SetKind;
          set({ kind: next, key: next === 'search' ? '' : (sets[next][0]?.key ?? '') });
        }}
      >
        {(Object.keys(SET_WORDS) as SetKind[]).map((k) => (
          <MenuItem key={k} value={k} disabled={k !== 'search' && sets[k].length === 0}>
            {SET_WORDS[k]}
          </MenuItem>
        ))}
      </TextField>
      {kind !== 'job' && (options.length > 0 || kind !== 'search') && (
        <TextField
          select
          size="small"
          label="Which one"
          value={options.some((o) => o.key === chosen.key) ? chosen.key : ''}
          onChange={(e) => set({ key: e.target.value })}
          slotProps={{ select: { displayEmpty: kind === 'search' }, inputLabel: { shrink: true } }}
        >
          {kind === 'search' && <MenuItem value="">As written below</MenuItem>}
          {options.map((o) => (
            <MenuItem key={o.key} value={o.key}>
              {o.words}
            </MenuItem>
          ))}
        </TextField>
      )}
      {kind === 'search' && chosen.key === '' && (
        <TextField
          size="small"
          label="Search, as in Choose"
          placeholder="keyword is tide"
          value={chosen.query}
          onChange={(e) => set({ query: e.target.value })}
        />
      )}
    </fieldset>
  );
}
