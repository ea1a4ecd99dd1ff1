import * as z from 'zod';
import { defineBlock, type BlockModule } from './block';

/** A block that writes one field of what a clip states, or a person says of it. */
const stated = <const K extends string>(
  kind: K,
  field: string,
  term: string,
  group: BlockModule['group'],
  meaning: string,
): BlockModule<K> =>
  defineBlock({
    kind,
    term,
    meaning,
    group,
    own: z.object({}),
    fresh: {},
    settings: [],
    fields: () => [field],
    text: (_, clip) => clip.facts[field] ?? null,
    form: () => ({ as: 'text' }),
    lacking: () => `no ${term.toLowerCase()} is known`,
  });

export const scene = stated('scene', 'scene', 'Scene', 'person', 'scene by the slate');
export const take = stated('take', 'take', 'Take', 'person', 'take by the slate');
export const place = stated('place', 'place', 'Place', 'person', 'where it was shot, as you say');
export const shooter = stated('shooter', 'operator', 'Shooter', 'person', 'who ran the camera');
export const listed = stated(
  'listed',
  'givenName',
  'Listed name',
  'person',
  'the name from a list of old and new names',
);
export const codec = stated('codec', 'codec', 'Codec', 'clip', 'how the picture is coded');
export const gamma = stated('gamma', 'gamma', 'Curve', 'camera', 'the camera’s curve: log or look');
export const look = stated('look', 'lookName', 'Look', 'camera', 'name of the look that goes with the clip');

/** Any other field. */
export const fact = defineBlock({
  kind: 'fact',
  term: 'Fact',
  meaning: 'any fact the clips state',
  group: 'clip',
  own: z.object({ field: z.string().min(1).max(40) }),
  fresh: { field: 'iso' },
  settings: [{ key: 'field', label: 'field', type: 'field' }],
  fields: (own) => [own.field],
  text: (own, clip) => clip.facts[own.field] ?? null,
  form: () => ({ as: 'text' }),
  lacking: (own) => `no ${own.field} is known`,
});
