import * as z from 'zod';
import { defineBlock } from './block';
import { formatMoment, maskOf } from './moment';

export const date = defineBlock({
  kind: 'date',
  term: 'Date',
  meaning: 'the date of the shoot day, or of the recording',
  group: 'time',
  own: z.object({ of: z.enum(['day', 'recording']), format: z.string().min(1).max(24) }),
  fresh: { of: 'day', format: 'YYYYMMDD' },
  settings: [
    {
      key: 'of',
      label: 'of the',
      type: 'choice',
      options: [
        ['day', 'shoot day'],
        ['recording', 'recording'],
      ],
    },
    { key: 'format', label: 'written', type: 'text', most: 24, wide: true },
  ],
  text: (own, clip) => {
    const of = own.of === 'day' ? clip.date : (clip.recordedAt?.slice(0, 10) ?? null);
    return of === null ? null : formatMoment(`${of}T00:00:00`, own.format);
  },
  form: (own) => ({ as: 'mask', mask: maskOf(own.format) }),
  lacking: () => 'the date is not known',
});
