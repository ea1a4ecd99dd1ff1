import * as z from 'zod';
import { formatRate } from '../../platform/timecode/rate';
import { defineBlock } from './block';

export const rate = defineBlock({
  kind: 'rate',
  term: 'Rate',
  meaning: 'frames a second, without a dot: 2997 for 29.97',
  group: 'clip',
  own: z.object({ suffix: z.string().max(8) }),
  fresh: { suffix: 'p' },
  settings: [{ key: 'suffix', label: 'ends with', type: 'text', most: 8 }],
  text: (own, clip) =>
    clip.rate === null ? null : formatRate(clip.rate).replace('.', '').replace('/', '-') + own.suffix,
  form: () => ({ as: 'text' }),
  lacking: () => 'the frame rate is not known',
});
