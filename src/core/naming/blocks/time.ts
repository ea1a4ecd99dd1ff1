import * as z from 'zod';
import { defineBlock } from './block';
import { formatMoment, maskOf } from './moment';

export const time = defineBlock({
  kind: 'time',
  term: 'Time',
  meaning: 'when it was recorded, by the corrected clock',
  group: 'time',
  own: z.object({ format: z.string().min(1).max(24) }),
  fresh: { format: 'hhmmss' },
  settings: [{ key: 'format', label: 'written', type: 'text', most: 24, wide: true }],
  text: (own, clip) => (clip.recordedAt === null ? null : formatMoment(clip.recordedAt, own.format)),
  form: (own) => ({ as: 'mask', mask: maskOf(own.format) }),
  lacking: () => 'the time of the recording is not known',
});
