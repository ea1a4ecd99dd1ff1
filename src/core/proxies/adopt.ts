import * as z from 'zod';
import { sameRate } from '../platform/timecode/rate';
import { sameAddress } from '../platform/timecode/timecode';
import { PairFacts } from './prove';

/** What of an original or of a found file counts when they are matched. */
export const MatchFacts = PairFacts.pick({ frames: true, rate: true, start: true });
export type MatchFacts = z.infer<typeof MatchFacts>;

export interface Original {
  id: string;
  /** Its present name and the camera's, without extension. */
  names: readonly string[];
  /** Words that may be in the path of what belongs to it: its card, camera, day. */
  card: string;
  facts: MatchFacts;
}

/** A file that may be a proxy of one. */
export interface Found {
  id: string;
  /** Below its root, with its extension. */
  path: string;
  facts: MatchFacts;
}

/** What stands before and after an original's name in those of its proxies. */
export const NameRule = z.object({ prefix: z.string(), suffix: z.string() });
export type NameRule = z.infer<typeof NameRule>;

/**
 * What was found out. `pairs` are certain: told by name and confirmed by frames, rate and timecode, or told by those alone where they
 * are the only ones. In `open` a person decides: several files for an original, several originals for a file, or a name that fits where the
 * facts are not known. `differs` are files whose name fits and whose facts do not: no proxies of it. The rest is nobody's.
 */
export interface Adoption {
  rules: NameRule[];
  pairs: { found: string; original: string; by: 'name' | 'rule' | 'timecode' | 'pictures' }[];
  open: { found: string[]; originals: string[]; because: string }[];
  differs: { found: string; originals: string[]; because: string }[];
  rest: string[];
}

/** The names of files that a proxy may be. */
export const VIDEO = /\.(?:mp4|mov|mxf|m4v|mkv|avi|mts|m2ts|lrv|lrf|webm)$/iu;

/** The name of a file without its extension, or both where a second one was appended; in one case and one form of letters. */
export function stemKey(path: string): string {
  let name = path.slice(path.lastIndexOf('/') + 1);
  for (let i = 0; i < 3 && VIDEO.test(name); i++) name = name.replace(VIDEO, '');
  return keyOf(name);
}
const keyOf = (name: string): string => name.normalize('NFC').toLowerCase();

type Agreement = 'same' | 'unknown' | 'differs';

/** Whether two files can be of one recording: the same frames at the same rate, from the same timecode where both state one. */
export function agreement(a: MatchFacts, b: MatchFacts): Agreement {
  const frames = a.frames === null || b.frames === null ? null : a.frames === b.frames;
  const rate = !a.rate || !b.rate ? null : sameRate(a.rate, b.rate);
  const start = !a.start || !b.start ? null : sameAddress(a.start, b.start);
  if (frames === false || rate === false || start === false) return 'differs';
  return frames === true && rate === true ? 'same' : 'unknown';
}

/** Names longer than this are not taken apart. */
const LONGEST = 80;
/** Files of which rules are made: a set's rule is in every part of it. */
const SAMPLED = 400;

type Originals = ReadonlyMap<string, readonly Original[]>;

/** By each of their names. */
function byName(originals: readonly Original[]): Originals {
  const map = new Map<string, Original[]>();
  for (const o of originals)
    for (const name of new Set(o.names.map(keyOf))) map.set(name, [...(map.get(name) ?? []), o]);
  return map;
}

/** Originals that a file could be of by its name under a rule. */
function explained(key: string, { prefix, suffix }: NameRule, names: Originals): readonly Original[] {
  if (key.length <= prefix.length + suffix.length) return [];
  if (!key.startsWith(prefix) || !key.endsWith(suffix)) return [];
  return names.get(key.slice(prefix.length, key.length - suffix.length)) ?? [];
}

/**
 * The rule that explains most of some files: each file's name is searched for the names of originals, and what is around them
 * is counted, where the facts do not contradict. Of those that explain as many the one that adds least; null where no rule explains two files and
 * none is confirmed by the facts of one.
 */
function bestRule(files: readonly Found[], names: Originals): NameRule | null {
  const votes = new Map<string, { rule: NameRule; files: number; sure: number }>();
  const step = Math.max(1, Math.floor(files.length / SAMPLED));
  for (let f = 0; f < files.length; f += step) {
    const { path, facts } = files[f]!;
    const key = stemKey(path);
    if (key.length > LONGEST) continue;
    for (let from = 0; from < key.length; from++)
      for (let to = from + 1; to <= key.length; to++) {
        const fits = (names.get(key.slice(from, to)) ?? []).map((o) => agreement(o.facts, facts));
        if (!fits.some((a) => a !== 'differs')) continue;
        const rule = { prefix: key.slice(0, from), suffix: key.slice(to) };
        const text = `${rule.prefix}\0${rule.suffix}`;
        const vote = votes.get(text) ?? { rule, files: 0, sure: 0 };
        vote.files++;
        if (fits.includes('same')) vote.sure++;
        votes.set(text, vote);
      }
  }
  const length = ({ prefix, suffix }: NameRule) => prefix.length + suffix.length;
  const [best] = [...votes.values()]
    .filter((v) => v.sure > 0 || v.files > 1 || length(v.rule) === 0)
    .sort((a, b) => b.sure - a.sure || b.files - a.files || length(a.rule) - length(b.rule));
  return best?.rule ?? null;
}

/** Rules of one set: cameras and programs that add words of their own. */
const MOST_RULES = 12;

/** A place in the day, at a rate, for a length: what renamed files are told by. Null where it tells little. */
const spanKey = ({ frames, rate, start }: MatchFacts): string | null =>
  frames === null || !rate || !start || start.frame === 0
    ? null
    : `${frames} ${rate.num}/${rate.den} ${start.frame}${start.drop ? ';' : ':'}`;

/** Of several originals those whose card a path names in one of its folders; all of them where it names none or all. */
function byCard(path: string, originals: readonly Original[]): readonly Original[] {
  const folders = new Set(path.split('/').slice(0, -1).map(keyOf));
  const named = originals.filter((o) => folders.has(keyOf(o.card)));
  return named.length > 0 ? named : originals;
}

const namesOf = (originals: readonly Original[]): string =>
  originals.map((o) => o.names[0] ?? o.id).join(', ');

/** Matches files with the originals they may be proxies of. */
export function matchFound(originals: readonly Original[], files: readonly Found[]): Adoption {
  const names = byName(originals);
  const out: Adoption = { rules: [], pairs: [], open: [], differs: [], rest: [] };
  const claims: { file: Found; original: Original; by: 'name' | 'rule' | 'timecode' }[] = [];
  let left = [...files];
  for (let i = 0; i < MOST_RULES && left.length > 0; i++) {
    const rule = bestRule(left, names);
    if (!rule) break;
    const isPlain = rule.prefix === '' && rule.suffix === '';
    const before = left.length;
    left = left.filter((file) => !claim(file, explained(stemKey(file.path), rule, names), isPlain));
    if (left.length === before) break;
    out.rules.push(rule);
  }

  /** Takes a file for what a rule makes of it; false where the rule says nothing of it. */
  function claim(file: Found, found: readonly Original[], isPlain: boolean): boolean {
    const fits = found.filter((o) => agreement(o.facts, file.facts) !== 'differs');
    // Where none fits, another rule or its timecode may tell whose it is.
    if (fits.length === 0) return false;
    const near = fits.length > 1 ? byCard(file.path, fits) : fits;
    const [one] = near;
    // Without a timecode of its own a file may be as long as another original of that name by chance.
    const named = byCard(file.path, found);
    const sure =
      found.length === 1 ||
      (one?.facts.start && file.facts.start) ||
      (named.length === 1 && named[0] === one);
    if (near.length === 1 && one && sure && agreement(one.facts, file.facts) === 'same')
      claims.push({ file, original: one, by: isPlain ? 'name' : 'rule' });
    else
      out.open.push({
        found: [file.id],
        originals: near.map((o) => o.id),
        because:
          near.length > 1
            ? `its name and length fit ${near.length} originals: ${namesOf(near)}`
            : `its name fits ${namesOf(near)}, and its length, rate or timecode do not prove it`,
      });
    return true;
  }

  // Cameras that run on one timecode may have begun together: only where one original has been recorded then, and nothing fits it by name.
  const taken = new Set([...claims.map((c) => c.original.id), ...out.open.flatMap((o) => o.originals)]);
  const then = new Map<string, Original[]>();
  for (const o of originals) {
    const key = spanKey(o.facts);
    if (key !== null) then.set(key, [...(then.get(key) ?? []), o]);
  }
  const spans = new Map<string, number>();
  for (const { facts } of left) spans.set(spanKey(facts) ?? '', (spans.get(spanKey(facts) ?? '') ?? 0) + 1);
  for (const file of left) {
    const key = spanKey(file.facts) ?? '';
    const found = then.get(key) ?? [];
    const [one] = found;
    if (found.length === 1 && one && !taken.has(one.id) && spans.get(key) === 1)
      claims.push({ file, original: one, by: 'timecode' });
    else if (found.length > 0)
      out.open.push({
        found: [file.id],
        originals: found.map((o) => o.id),
        because: `the same timecode, rate and length, under another name: ${namesOf(found)}`,
      });
    else said(file);
  }

  /** A file that is nobody's: by its name somebody's, whose facts differ, or not even that. */
  function said(file: Found): void {
    const named = [
      ...new Set(
        [{ prefix: '', suffix: '' }, ...out.rules].flatMap((r) => [
          ...explained(stemKey(file.path), r, names),
        ]),
      ),
    ];
    if (named.length === 0) out.rest.push(file.id);
    else
      out.differs.push({
        found: file.id,
        originals: named.map((o) => o.id),
        because: `it has the name of ${namesOf(named)}, and another length, rate or timecode`,
      });
  }

  // Several files for one original are shown side by side.
  const byOriginal = new Map<string, typeof claims>();
  for (const c of claims) byOriginal.set(c.original.id, [...(byOriginal.get(c.original.id) ?? []), c]);
  for (const [id, mine] of byOriginal)
    if (mine.length === 1) out.pairs.push({ found: mine[0]!.file.id, original: id, by: mine[0]!.by });
    else
      out.open.push({
        found: mine.map((c) => c.file.id),
        originals: [id],
        because: `${mine.length} files fit ${namesOf([mine[0]!.original])}`,
      });
  return out;
}
