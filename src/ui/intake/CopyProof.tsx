import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import TextField from '@mui/material/TextField';
import { ChosenHash, HASH_WORDS } from '../../core/hashLists';
import type { LookedCard } from '../../core/intake/shapes';
import { copySeconds, Verification, VERIFICATION_WORDS } from '../../core/offload';
import { formatLeft } from '../platform/format';
import { useOffloads } from '../platform/queries';
import { type CopyForm, settledHash } from './copyForm';

/** How copies are proven, and about how long that takes. */
export function CopyProof({
  form: { asked, put, bytes, going },
  card,
}: {
  form: CopyForm;
  card: LookedCard;
}) {
  const past = (useOffloads().data ?? []).find(
    (o) => o.speed !== null && o.verification === asked.verification,
  );
  // Copies of one card are compared by one hash: that of its first copies.
  const settled = settledHash(card);
  return (
    <fieldset>
      <legend>How it is proven</legend>
      <RadioGroup
        value={asked.verification}
        onChange={(e) => put({ verification: e.target.value as Verification })}
      >
        {Verification.options.map((v) => (
          <FormControlLabel
            key={v}
            value={v}
            sx={{ alignItems: 'flex-start', mr: 0 }}
            control={<Radio size="small" sx={{ py: 0.25 }} />}
            label={
              <span>
                <b>{VERIFICATION_WORDS[v].name}</b> · about{' '}
                {formatLeft(
                  copySeconds(
                    bytes,
                    Math.max(1, going.length),
                    v,
                    v === asked.verification ? (past?.speed ?? null) : null,
                  ),
                )}
                {v === asked.verification && (
                  <span className="soft" style={{ display: 'block', fontSize: 12.5 }}>
                    {VERIFICATION_WORDS[v].catches}
                  </span>
                )}
              </span>
            }
          />
        ))}
      </RadioGroup>
      <TextField
        select
        label="Hash"
        value={asked.hash}
        onChange={(e) => put({ hash: e.target.value as ChosenHash })}
        sx={{ mt: 0.75, minWidth: 170 }}
        disabled={settled !== undefined}
        helperText={settled && `as in the copies of ${card.known!.label}`}
      >
        {ChosenHash.options.map((h) => (
          <MenuItem key={h} value={h}>
            {HASH_WORDS[h]}
          </MenuItem>
        ))}
      </TextField>
    </fieldset>
  );
}
