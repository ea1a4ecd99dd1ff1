import { type Block, moduleOf } from './blocks';
import { finish, type KnownOfJob } from './blocks/block';
import type { Convention } from './convention';
import type { RenderedName } from './render';

/** A name taken apart by a convention: the text of each block that is in it. */
export interface TakenApart {
  texts: Map<string, string>;
  /** Whether it can be taken apart in another way as well, so that the texts are a guess. */
  ambiguous: boolean;
}

/** How far a name follows a convention: all of it, or up to the block (the first of its kind that nothing fits). */
export type Reading = { fits: true; apart: TakenApart } | { fits: false; block: string };

const DIGITS = /^\d+/u;

/** Where the text of a block may end that begins at `at`, longest first. */
function endsOf(block: Block, name: string, at: number, known: KnownOfJob): number[] {
  const module = moduleOf(block.kind);
  const form = module.form(block.own, known);
  const ends = new Set<number>();
  const exactly = (text: string): void => {
    if (text !== '' && name.startsWith(text, at)) ends.add(at + text.length);
  };
  const done = (text: string): string => finish(text, block, module.verbatim);
  if (block.missing === 'word') exactly(done(block.word));
  const padded = block.width > 0 || block.longest !== null;
  if (form.as === 'words') exactly(done(form.words));
  else if (form.as === 'mask' && !padded) {
    const mask = done(form.mask);
    const part = name.slice(at, at + mask.length);
    if (
      part.length === mask.length &&
      [...mask].every((c, i) => (c === '#' ? /\d/u.test(part[i]!) : c === part[i]))
    )
      ends.add(at + mask.length);
  } else if (form.as === 'digits' && !padded) {
    const prefix = form.prefix === '' ? '' : finish(form.prefix, { ...block, spaces: null });
    if (name.startsWith(prefix, at)) {
      const from = at + prefix.length;
      const digits = DIGITS.exec(name.slice(from))?.[0].length ?? 0;
      for (let n = digits; n >= form.least; n--) {
        ends.add(from + n);
        if (form.lettered)
          for (let k = from + n; k < name.length && /[A-Za-z]/u.test(name[k]!); k++) ends.add(k + 1);
      }
    }
  } else {
    const most = block.longest === null ? name.length : at + Math.max(block.longest, block.width) * 2;
    for (let end = Math.min(name.length, most); end > at; end--) ends.add(end);
  }
  return [...ends].sort((a, b) => b - a);
}

/** How many separators are within a part of a name, by where it begins and ends: counted once for the whole name. */
function separatorsWithin(
  name: string,
  separators: ReadonlySet<string>,
): (from: number, end: number) => number {
  const counts = [...separators].map((separator) => {
    /** How many begin before each place. */
    const before = [0];
    for (let i = 0; i < name.length; i++) before.push(before[i]! + (name.startsWith(separator, i) ? 1 : 0));
    return { length: separator.length, before };
  });
  return (from, end) =>
    counts.reduce(
      (n, { length, before }) => n + Math.max(0, (before[end - length + 1] ?? 0) - before[from]!),
      0,
    );
}

/**
 * Takes a name apart by a convention. Of several ways the one is told in which the fewest separators are within texts. The work
 * grows with blocks times the square of the name's length, whatever name it is. A convention that changes names after they are put together
 * cannot be read back; `null` then.
 */
export function readBack(
  convention: Convention,
  name: string,
  job: KnownOfJob = { code: null },
): Reading | null {
  if (convention.changes.length > 0) return null;
  const { blocks } = convention;
  const costOf = separatorsWithin(name, new Set(blocks.map((b) => b.before).filter((s) => s !== '')));
  interface Way {
    cost: number;
    ways: number;
    /** The end of this block's text, or null where it is left out. */
    end: number | null;
  }
  const known = new Map<string, Way | null>();
  let furthest = { at: -1, block: blocks[0]!.id };
  const best = (i: number, at: number, begun: boolean): Way | null => {
    if (i === blocks.length) return at === name.length && begun ? { cost: 0, ways: 1, end: null } : null;
    const key = `${i} ${at} ${begun ? 1 : 0}`;
    const seen = known.get(key);
    if (seen !== undefined) return seen;
    const block = blocks[i]!;
    const module = moduleOf(block.kind);
    let found: Way | null = null;
    const offer = (rest: Way | null, cost: number, end: number | null): void => {
      if (!rest) return;
      const total = rest.cost + cost;
      if (!found || total < found.cost) found = { cost: total, ways: rest.ways, end };
      else if (total === found.cost) found = { ...found, ways: Math.min(2, found.ways + rest.ways) };
    };
    const separator = begun ? block.before : '';
    const any = name.startsWith(separator, at);
    if (any) {
      const from = at + separator.length;
      const weighed = module.form(block.own, job).as === 'text';
      for (const end of endsOf(block, name, from, job))
        offer(best(i + 1, end, true), weighed ? costOf(from, end) : 0, end);
    }
    // A block that may be left out costs a little: it is left out only where nothing fits better.
    if (block.missing === 'leaveOut' && module.always !== true) offer(best(i + 1, at, begun), 0.5, null);
    if (!found && at > furthest.at) furthest = { at, block: block.id };
    known.set(key, found);
    return found;
  };
  const first = best(0, 0, false);
  if (!first) return { fits: false, block: furthest.block };
  const texts = new Map<string, string>();
  let [at, begun] = [0, false];
  blocks.forEach((block, i) => {
    const way = best(i, at, begun)!;
    if (way.end === null) return;
    texts.set(block.id, name.slice(at + (begun ? block.before.length : 0), way.end));
    [at, begun] = [way.end, true];
  });
  return { fits: true, apart: { texts, ambiguous: first.ways > 1 } };
}

/** What a name says otherwise than the convention would: nothing, or the first block that differs, with both texts. */
export type Following =
  { follows: true } | { follows: false; block: string; has: string | null; wanted: string | null };

/** Holds a name against the one the convention gives the clip. */
export function following(
  convention: Convention,
  name: string,
  rendered: Pick<RenderedName, 'stem' | 'parts'>,
  job: KnownOfJob,
): Following {
  if (name === rendered.stem) return { follows: true };
  const reading = readBack(convention, name, job);
  const first = convention.blocks[0]!.id;
  if (!reading) return { follows: false, block: first, has: name, wanted: rendered.stem };
  if (!reading.fits)
    return { follows: false, block: reading.block, has: null, wanted: textOf(rendered, reading.block) };
  for (const { id } of convention.blocks) {
    const [has, wanted] = [reading.apart.texts.get(id) ?? null, textOf(rendered, id)];
    if (has !== wanted) return { follows: false, block: id, has, wanted };
  }
  return { follows: false, block: first, has: name, wanted: rendered.stem };
}

const textOf = (rendered: Pick<RenderedName, 'stem' | 'parts'>, block: string): string | null =>
  rendered.parts.find((p) => p.blockId === block)?.text ?? null;

/** Where a name does not follow, as a person is told; null where it does. */
export function strayed(
  convention: Convention,
  name: string,
  rendered: Pick<RenderedName, 'stem' | 'parts'>,
  job: KnownOfJob,
): string | null {
  const held = following(convention, name, rendered, job);
  if (held.follows) return null;
  const { term } = moduleOf(convention.blocks.find((b) => b.id === held.block)!.kind);
  if (held.has === null)
    return held.wanted === null ? `does not follow at ${term}` : `${term}: not ${held.wanted}`;
  return held.wanted === null
    ? `${term}: ${held.has}, not wanted`
    : `${term}: ${held.has}, not ${held.wanted}`;
}
