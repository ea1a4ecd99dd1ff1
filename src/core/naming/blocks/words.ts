import * as z from 'zod';
import { defineBlock } from './block';

export const words = defineBlock({
  kind: 'words',
  term: 'Words',
  meaning: 'the same words in every name',
  group: 'text',
  own: z.object({ text: z.string().max(60) }),
  fresh: { text: 'words' },
  finish: { spaces: null },
  verbatim: true,
  settings: [{ key: 'text', label: 'text', type: 'text', most: 60, wide: true }],
  text: (own) => (own.text === '' ? null : own.text),
  form: (own) => ({ as: 'words', words: own.text }),
  always: true,
  lacking: () => 'the block has no words',
});
