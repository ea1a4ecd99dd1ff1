import * as z from 'zod';
import { keywordKey, LONGEST_NAME } from '../../choose';
import type { NamingClip } from '../clip';
import { defineBlock } from './block';

/** What is asked for among fields of facts where a convention writes keywords. */
export const KEYWORDS = 'keywords';

/** Of the clip's keywords those that a block means: all, those of a group, or the one that is called so. */
function meant(of: string, { keywords }: NamingClip): NamingClip['keywords'] {
  const key = keywordKey(of.trim());
  return key === ''
    ? keywords
    : keywords.filter(({ name, group }) => [name, group].some((it) => keywordKey(it) === key));
}

export const keyword = defineBlock({
  kind: 'keyword',
  term: 'Keyword',
  meaning: 'keywords of the clip, of a group of them, or a certain one',
  group: 'person',
  own: z.object({
    of: z.string().max(LONGEST_NAME),
    most: z.int().min(1).max(20),
    between: z.string().max(4),
  }),
  fresh: { of: '', most: 1, between: '-' },
  settings: [
    { key: 'of', label: 'group or keyword', type: 'keyword', most: LONGEST_NAME },
    { key: 'most', label: 'at most', type: 'number', least: 1, most: 20 },
    { key: 'between', label: 'between', type: 'text', most: 4 },
  ],
  fields: () => [KEYWORDS],
  text: ({ of, most, between }, clip) => {
    const found = meant(of, clip).slice(0, most);
    return found.length === 0 ? null : found.map((k) => k.name).join(between);
  },
  form: () => ({ as: 'text' }),
  lacking: ({ of }) => (of.trim() === '' ? 'it has no keyword' : `it has no keyword of “${of.trim()}”`),
});
