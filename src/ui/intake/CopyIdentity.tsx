import TextField from '@mui/material/TextField';
import type { LookedCard } from '../../core/intake/shapes';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import { formatDay } from '../platform/format';
import type { CopyForm } from './copyForm';
import styles from './intake.module.css';

/** Which card it is: its camera, its id, its day, each with what it was told by. */
export function CopyIdentity({ form: { asked, put, fault }, card }: { form: CopyForm; card: LookedCard }) {
  const { suggestion: s } = card;
  return (
    <fieldset>
      <legend>What it is</legend>
      <div className={styles.identity}>
        <TextField
          label="Camera"
          value={asked.camera}
          onChange={(e) => put({ camera: asCameraLabel(e.target.value) })}
          error={fault('camera') !== undefined}
          title={s.camera.because}
        />
        <TextField
          label="Card"
          value={asked.cardId}
          onChange={(e) => put({ cardId: e.target.value })}
          error={fault('cardId') !== undefined}
          title={s.cardId.because}
          slotProps={{ htmlInput: { className: 'figures' } }}
        />
        <TextField
          label="Day"
          type="number"
          value={asked.day}
          onChange={(e) => put({ day: e.target.value })}
          error={fault('day') !== undefined}
          title={s.day.because}
          slotProps={{ htmlInput: { min: 1 } }}
        />
        <TextField
          label="Date"
          type="date"
          value={asked.date}
          onChange={(e) => put({ date: e.target.value })}
          sx={{ gridColumn: '1 / 4' }}
          helperText={asked.date ? `${formatDay(asked.date)}: ${s.date.because}` : s.date.because}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      </div>
      {(fault('camera') ?? fault('cardId') ?? fault('day')) && (
        <p role="alert" className={styles.wrong}>
          {fault('camera') ?? fault('cardId') ?? fault('day')}
        </p>
      )}
    </fieldset>
  );
}
