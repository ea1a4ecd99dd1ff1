import { RE2JS } from 're2js';
import * as z from 'zod';

/** What is changed in a name once its blocks are put together, in order. */
export const Change = z.discriminatedUnion('kind', [
  z.object({
    id: z.string().min(1).max(40),
    kind: z.literal('replace'),
    find: z.string().min(1).max(200),
    with: z.string().max(120),
    /** Whether `find` is a regular expression in RE2 syntax, which is matched in linear time. */
    expression: z.boolean(),
    anyCase: z.boolean(),
  }),
  z.object({
    id: z.string().min(1).max(40),
    kind: z.literal('letters'),
    to: z.enum(['upper', 'lower', 'capitals']),
  }),
  z.object({
    id: z.string().min(1).max(40),
    kind: z.literal('trim'),
    /** Characters taken away at the beginning and at the end. */
    start: z.int().min(0).max(200),
    end: z.int().min(0).max(200),
  }),
]);
export type Change = z.infer<typeof Change>;

export const CHANGE_TERMS: Record<Change['kind'], string> = {
  replace: 'Find and replace',
  letters: 'Letters',
  trim: 'Trim',
};

export const newChange = (kind: Change['kind'], id: string): Change =>
  kind === 'replace'
    ? { id, kind, find: '_', with: '-', expression: false, anyCase: false }
    : kind === 'letters'
      ? { id, kind, to: 'upper' }
      : { id, kind, start: 0, end: 0 };

/** Why a regular expression cannot be used, null where it can. */
export function faultOf(change: Change): string | null {
  if (change.kind !== 'replace' || !change.expression) return null;
  try {
    const groups = RE2JS.compile(change.find).groupCount();
    const asked = [...change.with.matchAll(/\$(\d+)/gu)].map((m) => Number(m[1])).find((n) => n > groups);
    return asked === undefined
      ? null
      : `“${change.with}” asks for group ${asked}, and “${change.find}” has ${groups === 0 ? 'none' : `only ${groups}`}`;
  } catch (e) {
    return `“${change.find}” is no regular expression: ${(e instanceof Error ? e.message : String(e)).replace(/^error parsing regexp: /u, '')}`;
  }
}

/** A function that makes the changes. Faulty expressions change nothing: `faultOf` says so. */
export function changer(changes: readonly Change[]): (name: string) => string {
  const steps = changes.map(stepOf);
  return (name) => steps.reduce((text, step) => step(text), name);
}

function stepOf(change: Change): (text: string) => string {
  switch (change.kind) {
    case 'letters':
      return change.to === 'upper'
        ? (t) => t.toUpperCase()
        : change.to === 'lower'
          ? (t) => t.toLowerCase()
          : (t) => t.toLowerCase().replace(/(?<![\p{L}\p{N}])\p{L}/gu, (c) => c.toUpperCase());
    case 'trim':
      return (t) => {
        const characters = [...t];
        return characters
          .slice(change.start, Math.max(change.start, characters.length - change.end))
          .join('');
      };
    case 'replace': {
      if (change.expression && faultOf(change) !== null) return (t) => t;
      if (!change.expression && !change.anyCase) return (t) => t.replaceAll(change.find, () => change.with);
      const pattern = RE2JS.compile(
        change.expression ? change.find : RE2JS.quote(change.find),
        change.anyCase ? RE2JS.CASE_INSENSITIVE : 0,
      );
      const by = change.expression ? change.with : RE2JS.quoteReplacement(change.with);
      return (t) => pattern.matcher(t).replaceAll(by);
    }
  }
}
