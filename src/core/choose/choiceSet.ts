import * as z from 'zod';
import { BinLabel } from './bin';
import { Rule } from './rule';
import { LONGEST } from './search/query';
import { Name } from './shapes';

/** What is prepared for choosing before there are clips: keywords, rules, empty bins, searches. */
export const ChoiceSet = z.object({
  keywords: z
    .array(
      z.object({
        name: Name,
        /** The group of words it is listed in; empty for none. */
        family: z.string().max(120).default(''),
        hotkey: z.int().min(1).max(9).nullable().default(null),
      }),
    )
    .max(2000)
    .default([]),
  /** By what clips are given keywords. */
  rules: z.array(Rule).max(100).default([]),
  /** Each by the names of the bins around it, outermost first, and its own. */
  bins: z
    .array(
      z.object({
        path: z.array(Name).min(1).max(20),
        label: BinLabel.nullable().default(null),
        note: z.string().max(2000).default(''),
      }),
    )
    .max(2000)
    .default([]),
  searches: z
    .array(z.object({ name: Name, query: z.string().max(LONGEST) }))
    .max(500)
    .default([]),
});
export type ChoiceSet = z.infer<typeof ChoiceSet>;
