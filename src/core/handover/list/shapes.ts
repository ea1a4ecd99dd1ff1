import * as z from 'zod';
import { Changed } from '../../platform/shapes';
import { GivenKind } from '../../choose';
import { ListField } from './list';

/** A list as text, and what its columns hold where the head does not say it. */
export const ListIn = z.object({
  text: z.string().max(8_000_000),
  columns: z.array(ListField.nullable()).max(200).nullable().default(null),
});
export type ListIn = z.infer<typeof ListIn>;

/** What a list means and gives, before anything is taken: of its lines so many as are looked at, those without a clip first. */
export const ListView = z.object({
  head: z.array(z.string()),
  columns: z.array(ListField.nullable()),
  found: z.int(),
  lost: z.int(),
  /** How many clips are given something. */
  clips: z.int(),
  lines: z.array(
    z.object({
      line: z.int(),
      said: z.string(),
      /** The clip it means, as it is called; null with the reason where it means none. */
      clip: z.string().nullable(),
      why: z.string().nullable(),
      /** What is known of the clip now, and would be otherwise. */
      replaces: z.array(z.string()),
      given: z.object({
        range: z
          .object({ from: z.int(), to: z.int(), kind: GivenKind, name: z.string(), note: z.string() })
          .nullable(),
        keywords: z.array(z.string()),
        note: z.string(),
        scene: z.string(),
        take: z.string(),
        circled: z.boolean().nullable(),
      }),
    }),
  ),
});
export type ListView = z.infer<typeof ListView>;

/** What was taken: of keywords and ranges in words, of how many clips something else was said, and the ways back of both. */
export const ListTaken = Changed.extend({ said: z.int(), undoSaid: z.string().nullable() });
export type ListTaken = z.infer<typeof ListTaken>;
