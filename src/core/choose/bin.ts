import * as z from 'zod';

/** The mark of a bin: a shape with a colour, so that no two differ in colour alone. */
export const BinLabel = z.enum(['disc', 'square', 'triangle', 'diamond', 'ring', 'bar']);
export type BinLabel = z.infer<typeof BinLabel>;

/** How deep bins may stand in one another. */
export const DEEPEST_BIN = 12;

interface Node {
  id: string;
  parent: string | null;
}

/** The bins that a bin stands in, the nearest first. */
export function above(bins: readonly Node[], id: string): string[] {
  const parents = new Map(bins.map((b) => [b.id, b.parent]));
  const found: string[] = [];
  for (let at = parents.get(id) ?? null; at !== null && !found.includes(at); at = parents.get(at) ?? null)
    found.push(at);
  return found;
}

/** A bin and all that stand in it, itself first. */
export function withInside(bins: readonly Node[], id: string): string[] {
  const children = new Map<string, string[]>();
  for (const b of bins)
    if (b.parent !== null) children.set(b.parent, [...(children.get(b.parent) ?? []), b.id]);
  const found = [id];
  for (let i = 0; i < found.length; i++)
    for (const child of children.get(found[i]!) ?? []) if (!found.includes(child)) found.push(child);
  return found;
}

/** Why a bin cannot be moved into another; null where it can. `into` of null is the top. */
export function moveFault(bins: readonly Node[], id: string, into: string | null): string | null {
  if (into === null) return null;
  const inside = withInside(bins, id);
  if (inside.includes(into))
    return into === id ? 'A bin cannot stand in itself.' : 'A bin cannot stand in one that stands in it.';
  const height = Math.max(...inside.map((b) => above(bins, b).indexOf(id) + 1));
  return above(bins, into).length + 2 + height > DEEPEST_BIN
    ? `Bins stand in one another ${DEEPEST_BIN} deep at most.`
    : null;
}
