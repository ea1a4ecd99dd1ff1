import * as z from 'zod';
import { defineBlock } from './block';

/** What a counter starts again for. */
export const CounterScope = z.enum(['day', 'camera', 'card', 'folder', 'rate']);
export type CounterScope = z.infer<typeof CounterScope>;

/** Settings of a counter. */
export const Counter = z.object({
  /** It starts again for each of these together; for none it runs through the job. */
  per: z.array(CounterScope).max(5),
  start: z.int().min(0).max(999_999),
  step: z.int().min(1).max(1000),
  digits: z.int().min(1).max(6),
  orderBy: z.enum(['recorded', 'timecode', 'cameraName']),
  /** What becomes of clips that arrive when others have their numbers: they go on after the last, take letters, or all are numbered anew. */
  late: z.enum(['after', 'letters', 'renumber']),
  /** Whether clips that are missing on a card keep their number free. */
  gaps: z.enum(['closed', 'kept']),
});
export type Counter = z.infer<typeof Counter>;

export const counter = defineBlock({
  kind: 'counter',
  term: 'Counter',
  meaning: 'a number of its own for each clip',
  group: 'clip',
  own: Counter,
  fresh: {
    per: ['day', 'camera'],
    start: 1,
    step: 1,
    digits: 3,
    orderBy: 'recorded',
    late: 'after',
    gaps: 'closed',
  },
  settings: [
    {
      key: 'per',
      label: 'starts again for each',
      type: 'several',
      none: 'never',
      options: CounterScope.options.map((o) => [o, o]),
    },
    { key: 'start', label: 'starts at', type: 'number', least: 0, most: 999_999 },
    { key: 'step', label: 'step', type: 'number', least: 1, most: 1000 },
    { key: 'digits', label: 'digits', type: 'number', least: 1, most: 6 },
    {
      key: 'orderBy',
      label: 'ordered by',
      type: 'choice',
      options: [
        ['recorded', 'recorded time'],
        ['timecode', 'timecode'],
        ['cameraName', 'camera name'],
      ],
    },
    {
      key: 'late',
      label: 'clips that come late',
      type: 'choice',
      options: [
        ['after', 'go on after the last'],
        ['letters', 'take letters'],
        ['renumber', 'number all anew'],
      ],
    },
    {
      key: 'gaps',
      label: 'numbers of missing clips',
      type: 'choice',
      options: [
        ['closed', 'are used'],
        ['kept', 'stay free'],
      ],
    },
  ],
  text: (_own, _clip, context) => context.counter(context.at),
  form: (own) => ({ as: 'digits', prefix: '', least: own.digits, lettered: own.late === 'letters' }),
  always: true,
  lacking: () => 'it has no number',
});
