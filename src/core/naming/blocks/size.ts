import * as z from 'zod';
import { defineBlock } from './block';

export const size = defineBlock({
  kind: 'size',
  term: 'Frame size',
  meaning: 'columns and rows of the picture',
  group: 'clip',
  own: z.object({ write: z.enum(['both', 'rows', 'columns']) }),
  fresh: { write: 'both' },
  settings: [
    {
      key: 'write',
      label: 'write',
      type: 'choice',
      options: [
        ['both', '3840x2160'],
        ['rows', '2160'],
        ['columns', '3840'],
      ],
    },
  ],
  text: (own, clip) => {
    if (clip.size === null) return null;
    const [columns, rows] = clip.size;
    return own.write === 'both' ? `${columns}x${rows}` : String(own.write === 'rows' ? rows : columns);
  },
  form: () => ({ as: 'text' }),
  lacking: () => 'the frame size is not known',
});
