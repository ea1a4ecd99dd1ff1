import * as z from 'zod';
import { cameraNumber } from '../../intake';
import { defineBlock } from './block';

export const original = defineBlock({
  kind: 'original',
  term: 'Original',
  meaning: 'the camera’s own name of the clip, or a part of it',
  group: 'clip',
  own: z.object({ part: z.enum(['number', 'name', 'beforeNumber', 'current']) }),
  fresh: { part: 'number' },
  finish: { spaces: null },
  verbatim: true,
  settings: [
    {
      key: 'part',
      label: 'write',
      type: 'choice',
      options: [
        ['number', 'its number'],
        ['name', 'the whole camera name'],
        ['beforeNumber', 'what is before the number'],
        ['current', 'the name it has now'],
      ],
    },
  ],
  text: (own, clip) => {
    if (own.part === 'name') return clip.original;
    if (own.part === 'current') return clip.current;
    const number = cameraNumber(clip.original);
    return (own.part === 'number' ? number?.digits : number?.before) || null;
  },
  form: (own) =>
    own.part === 'number' ? { as: 'digits', prefix: '', least: 1, lettered: false } : { as: 'text' },
  lacking: () => 'the camera name has no number',
});
