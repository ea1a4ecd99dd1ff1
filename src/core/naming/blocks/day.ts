import * as z from 'zod';
import { defineBlock } from './block';

export const day = defineBlock({
  kind: 'day',
  term: 'Day',
  meaning: 'the number of the shoot day',
  group: 'time',
  own: z.object({ prefix: z.string().max(8), digits: z.int().min(1).max(3) }),
  fresh: { prefix: 'D', digits: 1 },
  settings: [
    { key: 'prefix', label: 'begins with', type: 'text', most: 8 },
    { key: 'digits', label: 'digits', type: 'number', least: 1, most: 3 },
  ],
  text: (own, clip) => (clip.day === null ? null : own.prefix + String(clip.day).padStart(own.digits, '0')),
  form: (own) => ({ as: 'digits', prefix: own.prefix, least: own.digits, lettered: false }),
  lacking: () => 'the day is not known',
});
