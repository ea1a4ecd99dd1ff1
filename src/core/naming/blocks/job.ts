import * as z from 'zod';
import { defineBlock } from './block';

export const job = defineBlock({
  kind: 'job',
  term: 'Job',
  meaning: 'the job’s code',
  group: 'job',
  own: z.object({}),
  fresh: {},
  settings: [],
  text: (_, clip) => clip.job,
  form: (_, { code }) => (code === null ? { as: 'text' } : { as: 'words', words: code }),
  always: true,
  lacking: () => 'the job has no code',
});
