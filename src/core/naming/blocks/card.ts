import * as z from 'zod';
import { defineBlock } from './block';

export const card = defineBlock({
  kind: 'card',
  term: 'Card',
  meaning: 'the card’s id',
  group: 'camera',
  own: z.object({}),
  fresh: {},
  settings: [],
  text: (_, clip) => clip.card,
  form: () => ({ as: 'text' }),
  always: true,
  lacking: () => 'the card has no id',
});
