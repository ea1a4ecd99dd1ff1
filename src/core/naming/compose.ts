import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { formatRate } from '../platform/timecode/rate';
import { folderOf, shownPath } from '../platform/names';
import { ALL_SYSTEMS, type Problem } from './check';
import type { NamingClip } from './clip';
import type { Gap, GivenNumber } from './counters';
import type { Convention, FolderPlan, RuleScope } from './convention';
import type { ChangedClip, NamingData, NamingRequest, NamingRow, NamingSummary } from './shapes';
import {
  type Plan,
  type PlanClip,
  planFile,
  type PlanFile,
  planNames,
  type PlanOptions,
  type PlanRoot,
  Targets,
} from './plan';
import { nameKey, nameNumber, numbersOf, PlaceIndex, sameOnes } from './placeIndex';
import { fieldsOf, Memo, renderNames, type RenderedName } from './render';

/** A plan with what the person sees of it. Rows are made when they are asked for: of very many clips few are in sight. */
export interface Composed {
  plan: Plan;
  summary: NamingSummary;
  /** Numbers the plan gives to the clips that are in it. */
  numbers: GivenNumber[];
  /** How many rows there are of each kind. */
  counts: Record<RowFilter, number>;
  rowsOf: (filter: RowFilter, from?: number, to?: number) => NamingRow[];
  /** A few rows that differ in what names are made of: rules, cameras, days. */
  examples: (most: number) => NamingRow[];
  /** Changes whenever the steps of the plan do: what is applied is what was shown. */
  fingerprint: () => string;
}

/** Which rows are shown: all, those with a problem, those that get another name or place, those whose present name does not follow. */
export type RowFilter = 'all' | 'problems' | 'changes' | 'strayed';

interface Ruled {
  rule: string;
  convention: Convention;
  folderPlan: FolderPlan;
}

const fitsScope = (scope: RuleScope, clip: NamingClip): boolean =>
  (scope.kinds.length === 0 || scope.kinds.includes(clip.kind)) &&
  (scope.cameras.length === 0 || scope.cameras.includes(clip.camera)) &&
  (scope.cards.length === 0 || scope.cards.includes(clip.card)) &&
  (scope.rates.length === 0 || (clip.rate !== null && scope.rates.includes(formatRate(clip.rate))));

/** Fields of facts that a request needs of each clip. */
export const fieldsOfRequest = (
  request: Pick<NamingRequest, 'convention' | 'folderPlan' | 'rules'>,
): string[] => [
  ...new Set([
    'reel',
    ...fieldsOf(request.convention, request.folderPlan),
    ...request.rules.flatMap((r) => fieldsOf(r.convention, r.folderPlan)),
  ]),
];

/** Of each clip the rule it takes: the first whose scope it is in, else the job's own convention, which is the last. */
function rulesOf(request: NamingRequest, clips: readonly Clip[]): { rules: Ruled[]; of: number[] } {
  const rules = request.rules.map((r): Ruled => ({
    rule: r.id,
    convention: r.convention,
    folderPlan: r.folderPlan,
  }));
  rules.push({ rule: '', convention: request.convention, folderPlan: request.folderPlan });
  const of = clips.map((clip) => {
    const found = request.rules.findIndex((r) => fitsScope(r.scope, clip));
    return found < 0 ? rules.length - 1 : found;
  });
  return { rules, of };
}

/** A clip under the name it gets. */
interface Named {
  clip: Clip;
  ruled: Ruled;
  name: RenderedName;
}

/** Names and places of all clips of the job. */
export interface NamedClips {
  /** By day, card and shooting. */
  named: readonly Named[];
  numbers: readonly GivenNumber[];
  gaps: readonly Gap[];
}

/** Names all clips of the job, each by its rule: a clip's number depends on the others, whichever are to be renamed. */
export function nameClips(data: NamingData, request: NamingRequest): NamedClips {
  const numbers: GivenNumber[] = [];
  const gaps: Gap[] = [];
  const { order, ids, notTaken, memos } = knownOf(data);
  const context = {
    given: data.given,
    notTaken: (card: string, name: string) => notTaken.has(`${card}\0${name.toLowerCase()}`),
    exists: (id: string) => ids.has(id),
    systems: request.systems.length === 0 ? ALL_SYSTEMS : request.systems,
  };
  const { rules, of } = rulesOf(request, order);
  // Which clips a rule is for is a matter of all scopes.
  const scopes = JSON.stringify(request.rules.map((r) => r.scope));
  if (memos.scopes !== scopes) Object.assign(memos, { scopes, of: rules.map(() => new Memo()) });
  const names = rules.map(({ convention, folderPlan }, rule) => {
    const rendered = renderNames(
      convention,
      folderPlan,
      order.filter((_, i) => of[i] === rule),
      context,
      memos.of[rule],
    );
    for (const list of rendered.numbers) for (const n of list) numbers.push(n);
    for (const gap of rendered.gaps) gaps.push(gap);
    return rendered.names.values();
  });
  const named = order.map((clip, i): Named => {
    const rule = of[i]!;
    return { clip, ruled: rules[rule]!, name: names[rule]!.next().value! };
  });
  return { named, numbers, gaps };
}

/** What a plan asks of the disk: folders whose names have to be known, by root. */
export function targetFolders(
  data: NamingData,
  request: NamingRequest,
  { named }: NamedClips,
): { root: string; folder: string }[] {
  const targets = new Targets({ shelf: data.shelf, roots: rootsOf(data) });
  const out = new Map<string, Set<string>>();
  const seen = new Set<object>();
  for (const { clip, name, ruled } of chosenOf(named, request))
    for (const file of clip.files) {
      const way = targets.wayOf(name.folder, ruled.folderPlan, file);
      if (seen.has(way)) continue;
      seen.add(way);
      const { root, folder } = way;
      const folders = out.get(root);
      if (folders) folders.add(folder);
      else out.set(root, new Set([folder]));
    }
  return [...out].flatMap(([root, folders]) => [...folders].map((folder) => ({ root, folder })));
}

const rootsOf = (data: NamingData): Map<string, PlanRoot> => new Map(data.roots.map((r) => [r.id, r]));

/** The clips a request is about: its cards' or its own choice; all where it names none. */
function chosenOf(named: readonly Named[], request: NamingRequest): readonly Named[] {
  const [cards, clips] = [new Set(request.cards), new Set(request.clips)];
  if (cards.size === 0 && clips.size === 0) return named;
  return named.filter(({ clip }) => cards.has(clip.card) || clips.has(clip.id));
}

/** The plan for a request: names, places, steps, and everything that is wrong with them. */
export function composePlan(
  data: NamingData,
  request: NamingRequest,
  { named, numbers, gaps }: NamedClips,
  occupied: PlanOptions['occupied'],
  changed: readonly ChangedClip[] = [],
): Composed {
  const { owners } = knownOf(data);
  const without = new Set(request.without);
  const isOut = (c: Clip): boolean => c.held.length > 0 || without.has(c.id);
  const lines = chosenOf(named, request).map(
    ({ clip, name, ruled }) => new RowLine(clip, name, ruled, isOut(clip)),
  );
  const planned = lines.filter((l) => !l.out);
  const plan = planNames(planned, {
    shelf: data.shelf,
    roots: rootsOf(data),
    occupied,
    ownerAt: (number, place) => owners.get(number, place)?.clipId ?? null,
    systems: request.systems.length === 0 ? ALL_SYSTEMS : request.systems,
  });
  planned.forEach((line, i) => (line.steps = plan.changes[i]!));
  const led = new Set(changed.length > 0 ? planned.filter((l) => l.steps > 0).map((l) => l.id) : []);
  const found = new Map<string, Problem[]>();
  for (const { clipId, ...problem } of [
    ...plan.problems,
    ...namesakes(named, isOut),
    ...changed.filter((c) => led.has(c.clip)).map(changedSince),
  ]) {
    const list = found.get(clipId);
    if (list) list.push(problem);
    else found.set(clipId, [problem]);
  }
  for (const line of lines) line.problems = problemsOf(line, found.get(line.id));
  const shown: Record<RowFilter, RowLine[]> = {
    all: lines,
    problems: lines.filter((l) => l.problems.length > 0),
    changes: lines.filter((l) => !l.out && l.steps > 0),
    strayed: lines.filter((l) => !l.out && hasStrayed(l.clip, l.stem)),
  };
  return {
    plan,
    summary: summaryOf(lines, plan, gaps, data),
    get numbers(): GivenNumber[] {
      const inPlan = new Set(planned.map((l) => l.id));
      return numbers.filter((n) => inPlan.has(n.clipId));
    },
    counts: {
      all: lines.length,
      problems: shown.problems.length,
      changes: shown.changes.length,
      strayed: shown.strayed.length,
    },
    rowsOf: (filter, from = 0, to = lines.length) => shown[filter].slice(from, to).map(rowOf),
    examples: (most) => examplesOf(lines, most).map(rowOf),
    fingerprint: () => fingerprintOf(plan),
  };
}

/** Whether a name that was given before is another than the convention's. A camera's name was not. */
export const hasStrayed = (clip: Pick<NamingClip, 'current' | 'original'>, stem: string): boolean =>
  clip.current !== clip.original && clip.current !== stem;

/** A clip with its files as plans take them. */
type Clip = Omit<NamingData['clips'][number], 'files'> & { files: readonly PlanFile[] };

const NONE: readonly Problem[] = [];

/** A clip of a plan, and what a row is made of. */
class RowLine implements PlanClip {
  /** How many of its files get another name or place. */
  steps = 0;
  problems: readonly Problem[] = NONE;

  constructor(
    readonly clip: Clip,
    readonly name: RenderedName,
    readonly ruled: Ruled,
    readonly out: boolean,
  ) {}

  get id(): string {
    return this.clip.id;
  }
  get stem(): string {
    return this.name.stem;
  }
  get folder(): string {
    return this.name.folder;
  }
  get folderPlan(): FolderPlan {
    return this.ruled.folderPlan;
  }
  get files(): readonly PlanFile[] {
    return this.clip.files;
  }
}

function examplesOf(lines: readonly RowLine[], most: number): RowLine[] {
  const of = new Map<string, RowLine>();
  for (const line of lines) {
    if (of.size === most) break;
    const key = `${line.ruled.rule}\0${line.clip.camera}\0${line.clip.day}`;
    if (!line.out && !of.has(key)) of.set(key, line);
  }
  return of.size > 0 ? [...of.values()] : lines.slice(0, 1);
}

/** Everything that is wrong with a clip's name or place; of most nothing is, and they share that. */
function problemsOf(
  { clip, name, out, steps }: RowLine,
  found: readonly Problem[] = NONE,
): readonly Problem[] {
  if (out) return clip.held.map((text) => ({ level: 'look', code: 'held', text }));
  const odd = steps > 0 ? oddities(clip, name) : NONE;
  const own = steps > 0 ? name.problems : NONE;
  if (own.length + found.length + odd.length + clip.beside.length === 0) return NONE;
  return [...own, ...found, ...clip.beside.map(lost), ...odd];
}

const rowOf = ({ clip: c, name, ruled, out, steps, problems }: RowLine): NamingRow => ({
  clipId: c.id,
  original: shownPath(c.original),
  current: shownPath(c.current),
  extension: c.extension,
  card: c.card,
  camera: c.camera,
  day: c.day ?? 0,
  rule: ruled.rule,
  facts: c.facts,
  parts: name.parts,
  stem: name.stem,
  folder: name.folder,
  files: c.files.length,
  steps,
  out,
  problems: [...problems],
});

/** What is the same for every plan of the same clips. */
interface Known {
  /** By day, card and shooting. */
  order: readonly Clip[];
  /** Whose files are where. */
  owners: PlaceIndex<PlanFile & { clipId: string }>;
  /** Folders the originals are in, of those that are in a root that files may be moved in. */
  homes: ReadonlyMap<Clip, string>;
  ids: ReadonlySet<string>;
  notTaken: ReadonlySet<string>;
  rates: string[];
  /** What the last plan worked out, by its rules; and the rules' scopes. */
  memos: { scopes: string; of: Memo[] };
}
const known = new WeakMap<NamingData, Known>();

function knownOf(data: NamingData): Known {
  const before = known.get(data);
  if (before) return before;
  const clips = inOrder(data.clips).map((c): Clip => ({ ...c, files: c.files.map(planFile) }));
  const movable = new Set(data.roots.filter((r) => r.movable).map((r) => r.id));
  const homes = new Map<Clip, string>();
  for (const c of clips) {
    const at = c.files.find((f) => f.role === 'original')?.place;
    if (at && movable.has(at.root)) homes.set(c, folderOf(at.path));
  }
  const now: Known = {
    order: clips,
    owners: new PlaceIndex(
      clips.flatMap((c) => c.files.map((f) => ({ ...f, clipId: c.id }))),
      (f) => f.place,
      (f) => f.number,
    ),
    homes,
    ids: new Set(data.clips.map((c) => c.id)),
    notTaken: new Set(data.notTaken.map((n) => `${n.card}\0${n.name.toLowerCase()}`)),
    rates: [...new Set(data.clips.flatMap((c) => (c.rate ? [formatRate(c.rate)] : [])))].sort(
      natural.compare,
    ),
    memos: { scopes: '', of: [] },
  };
  known.set(data, now);
  return now;
}

const lost = (file: string): Problem => ({
  level: 'look',
  code: 'beside',
  text: `${file} is beside it under the same name, belongs to no clip, and stays where it is`,
  mend: 'move it by hand if it belongs to the clip',
});

/** A reel in an edit list of the 3600 form (SMPTE 258M) has eight characters. */
const REEL = 8;

/** What works, but causes trouble further on. */
function oddities(c: Clip, name: RenderedName): readonly Problem[] {
  const reel = c.facts.reel ?? c.card;
  const twice = c.extension !== '' && name.stem.toLowerCase().endsWith(c.extension.toLowerCase());
  if (reel.length <= REEL && !twice) return NONE;
  const found: Problem[] = [];
  if (reel.length > REEL)
    found.push({
      level: 'look',
      code: 'reel',
      text: `the reel ${reel} has ${reel.length} characters: an edit list holds ${REEL}`,
      mend: 'give the card a shorter id',
    });
  if (twice)
    found.push({
      level: 'look',
      code: 'extension',
      text: `the name ends with ${c.extension} already, and would have it twice`,
      mend: 'take it out of the words or the listed name',
    });
  return found;
}

/** A plan leaves a family alone of which a file is not as it was read. */
const changedSince = ({ clip, text }: ChangedClip): Problem & { clipId: string } => ({
  clipId: clip,
  level: 'look',
  code: 'changed',
  text,
  mend: 'its clip would stay as it is; read the card again, or leave the clip out',
});

/** Clips of the job that would have one name in different folders: an edit that looks for them by name finds either. */
function namesakes(named: readonly Named[], isOut: (c: Clip) => boolean): (Problem & { clipId: string })[] {
  const nameOf = ({ clip, name }: Named): string => (isOut(clip) ? clip.current : name.stem);
  const same = sameOnes(
    numbersOf(named, (n) => nameNumber(nameOf(n))),
    (at) => nameKey(nameOf(named[at]!)),
  );
  return same.flatMap((group) =>
    group.map((at) => ({
      clipId: named[at]!.clip.id,
      level: 'look' as const,
      code: 'namesake',
      text: `${group.length} clips of the job would have this name`,
      mend: 'add a block that tells them apart: an edit finds its clips by name',
    })),
  );
}

function inOrder(clips: NamingData['clips']): NamingData['clips'] {
  const key = (c: NamingClip): string =>
    `${String(c.day ?? 9999).padStart(4, '0')}${c.card}\0${c.recordedAt ?? '9'}\0${(c.startSeconds ?? 0).toFixed(3).padStart(10, '0')}\0${c.original}\0${c.id}`;
  return clips
    .map((c) => [key(c), c] as const)
    .sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
    .map(([, c]) => c);
}

function summaryOf(
  rows: readonly RowLine[],
  plan: Plan,
  gaps: readonly Gap[],
  data: NamingData,
): NamingSummary {
  let [stops, looks, moved, followers, files] = [0, 0, 0, 0, 0];
  for (const r of rows) {
    files += r.steps;
    if (r.steps > 0) moved++;
    if (!r.out && r.steps === 0) followers++;
    const bad = r.problems.filter((p) => p.level === 'stop').length;
    stops += bad;
    looks += r.problems.length - bad;
  }
  return {
    total: rows.length,
    steps: files,
    clips: moved,
    right: followers,
    copies: plan.copies,
    copyBytes: plan.copyBytes,
    links: plan.links,
    stops,
    looks,
    shelf: shelfAfter(rows, data),
    rates: knownOf(data).rates,
    gaps: gaps.slice(0, 200),
  };
}

function fingerprintOf(plan: Plan): string {
  const hash = sha256.create();
  let text = '';
  for (const s of plan.steps) {
    text += `${s.clipId}\0${s.fileId}\0${s.kind}\0${s.from.root}\0${s.from.path}\0${s.to.root}\0${s.to.path}\0${s.size}\0${s.modified}\n`;
    if (text.length < 65_536) continue;
    hash.update(utf8ToBytes(text));
    text = '';
  }
  return bytesToHex(hash.update(utf8ToBytes(text)).digest());
}

/** Days, cameras and cards whose clips would be in a folder: the one of each, null where there are several. */
class Belongs {
  day: number | null | undefined;
  camera: string | null | undefined;
  card: string | null | undefined;

  add({ clip: { day, camera, card } }: RowLine): void {
    this.day = this.day === undefined || this.day === day ? day : null;
    this.camera = this.camera === undefined || this.camera === camera ? camera : null;
    this.card = this.card === undefined || this.card === card ? card : null;
  }
}

/** The shelf as it would stand: folder, clips in it before and after, whose they are, whether this plan changes it. */
function shelfAfter(rows: readonly RowLine[], data: NamingData): NamingSummary['shelf'] {
  const { homes } = knownOf(data);
  const tree = new Map<string, { clips: number; before: number; changed: boolean; of: Belongs }>();
  const at = (folder: string) => {
    const known = tree.get(folder);
    if (known) return known;
    const made = { clips: 0, before: 0, changed: false, of: new Belongs() };
    tree.set(folder, made);
    return made;
  };
  for (const r of rows) {
    const here = homes.get(r.clip) ?? null;
    if (here !== null) at(here).before++;
    const after = r.out ? here : r.name.folder;
    if (after === null) continue;
    const folder = at(after);
    folder.clips++;
    folder.of.add(r);
    folder.changed ||= !r.out && r.steps > 0;
  }
  return [...tree]
    .map(([folder, { of, ...v }]) => ({
      folder,
      ...v,
      day: of.day ?? null,
      camera: of.camera ?? null,
      card: of.card ?? null,
    }))
    .sort((a, b) => natural.compare(a.folder, b.folder));
}

const natural = new Intl.Collator('en', { numeric: true });
