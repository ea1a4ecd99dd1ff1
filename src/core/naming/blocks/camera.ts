import * as z from 'zod';
import { defineBlock } from './block';

export const camera = defineBlock({
  kind: 'camera',
  term: 'Camera',
  meaning: 'the camera’s letter, or its name',
  group: 'camera',
  own: z.object({ part: z.enum(['letter', 'name']) }),
  fresh: { part: 'letter' },
  settings: [
    {
      key: 'part',
      label: 'write its',
      type: 'choice',
      options: [
        ['letter', 'letter'],
        ['name', 'name'],
      ],
    },
  ],
  text: (own, clip) => (own.part === 'letter' ? clip.camera : clip.cameraName),
  form: () => ({ as: 'text' }),
  lacking: () => 'the camera has no name',
});
