import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { formatRate } from '../platform/timecode/rate';
import { shownPath } from '../platform/names';
import { ALL_SYSTEMS, type Problem } from './check';
import type { NamingClip } from './clip';
import type { Gap, GivenNumber } from './counters';
import type { Convention, FolderPlan, RuleScope } from './convention';
import type { NamingData, NamingRequest, NamingRow, NamingSummary } from './shapes';
import { nameKey, type Place, placeKey, type Plan, planNames, type PlanRoot, targetOf } from './plan';
import { fieldsOf, renderNames, type RenderedName } from './render';

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

/** Which rows are shown: all, those with a problem, those that get another name or place. */
export type RowFilter = 'all' | 'problems' | 'changes';

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

/** Which rule each clip takes: the first whose scope it is in, else the job's own convention. */
function sorted(request: NamingRequest, clips: readonly NamingClip[]): [Ruled, NamingClip[]][] {
  const all: [Ruled, RuleScope | null, NamingClip[]][] = [
    ...request.rules.map((r): [Ruled, RuleScope, NamingClip[]] => [
      { rule: r.id, convention: r.convention, folderPlan: r.folderPlan },
      r.scope,
      [],
    ]),
    [{ rule: '', convention: request.convention, folderPlan: request.folderPlan }, null, []],
  ];
  for (const clip of clips) all.find(([, scope]) => scope === null || fitsScope(scope, clip))![2].push(clip);
  return all.map(([ruled, , list]) => [ruled, list]);
}

interface Named extends Ruled {
  name: RenderedName;
}

/** Names and places of all clips of the job. */
export interface NamedClips {
  named: ReadonlyMap<string, Named>;
  numbers: readonly GivenNumber[];
  gaps: readonly Gap[];
}

/** Names all clips of the job, each by its rule: a clip's number depends on the others, whichever are to be renamed. */
export function nameClips(data: NamingData, request: NamingRequest): NamedClips {
  const named = new Map<string, Named>();
  const numbers: GivenNumber[] = [];
  const gaps: Gap[] = [];
  const ids = new Set(data.clips.map((c) => c.id));
  const notTaken = new Set(data.notTaken.map((n) => `${n.card}\0${n.name.toLowerCase()}`));
  const context = {
    given: data.given,
    notTaken: (card: string, name: string) => notTaken.has(`${card}\0${name.toLowerCase()}`),
    exists: (id: string) => ids.has(id),
    systems: request.systems.length === 0 ? ALL_SYSTEMS : request.systems,
  };
  for (const [ruled, clips] of sorted(request, data.clips)) {
    const rendered = renderNames(ruled.convention, ruled.folderPlan, clips, context);
    for (const name of rendered.names) named.set(name.clipId, { ...ruled, name });
    for (const list of rendered.numbers.values()) numbers.push(...list);
    gaps.push(...rendered.gaps);
  }
  return { named, numbers, gaps };
}

/** What a plan asks of the disk: folders whose names have to be known, by root. */
export function targetFolders(
  data: NamingData,
  request: NamingRequest,
  { named }: NamedClips,
): { root: string; folder: string }[] {
  const roots = rootsOf(data);
  const out = new Map<string, { root: string; folder: string }>();
  /** Files of a role that come from one root to the clips of a folder go to one folder. */
  const seen = new Set<string>();
  for (const clip of chosenClips(data, request)) {
    const { name, folderPlan, rule } = named.get(clip.id)!;
    for (const file of clip.files) {
      const key = `${rule}\0${file.role}\0${file.place.root}\0${name.folder}`;
      if (seen.has(key)) continue;
      seen.add(key);
      const to = targetOf({ stem: name.stem, folder: name.folder, folderPlan }, file, {
        shelf: data.shelf,
        roots,
      });
      const folder = folderOf(to.path);
      out.set(`${to.root}\0${folder}`, { root: to.root, folder });
    }
  }
  return [...out.values()];
}

const folderOf = (path: string): string => path.slice(0, Math.max(0, path.lastIndexOf('/')));
const rootsOf = (data: NamingData): Map<string, PlanRoot> => new Map(data.roots.map((r) => [r.id, r]));

/** The clips a request is about: its cards' or its own choice; all where it names none. */
function chosenClips(data: NamingData, request: NamingRequest): NamingData['clips'] {
  const [cards, clips] = [new Set(request.cards), new Set(request.clips)];
  if (cards.size === 0 && clips.size === 0) return data.clips;
  return data.clips.filter((c) => cards.has(c.card) || clips.has(c.id));
}

/** The plan for a request: names, places, steps, and everything that is wrong with them. */
export function composePlan(
  data: NamingData,
  request: NamingRequest,
  { named, numbers, gaps }: NamedClips,
  occupied: (place: Place) => boolean,
): Composed {
  const { order, owners } = knownOf(data);
  const among = new Set(chosenClips(data, request));
  const chosen = order.filter((c) => among.has(c));
  const without = new Set(request.without);
  const isOut = (c: Clip): boolean => c.held.length > 0 || without.has(c.id);
  const planned = chosen
    .filter((c) => !isOut(c))
    .map((c) => {
      const { name, folderPlan } = named.get(c.id)!;
      return { id: c.id, stem: name.stem, folder: name.folder, folderPlan, files: c.files };
    });
  const plan = planNames(planned, {
    shelf: data.shelf,
    roots: rootsOf(data),
    occupied,
    ownerAt: (place) => owners.get(placeKey(place)) ?? null,
    systems: request.systems.length === 0 ? ALL_SYSTEMS : request.systems,
  });
  const stepsOf = new Map<string, number>();
  for (const s of plan.steps) stepsOf.set(s.clipId, (stepsOf.get(s.clipId) ?? 0) + 1);
  const found = new Map<string, Problem[]>();
  for (const { clipId, ...problem } of [...plan.problems, ...namesakes(data, named, isOut)]) {
    const list = found.get(clipId);
    if (list) list.push(problem);
    else found.set(clipId, [problem]);
  }
  const lines = chosen.map((clip): RowLine => {
    const { name, rule } = named.get(clip.id)!;
    const out = isOut(clip);
    const steps = stepsOf.get(clip.id) ?? 0;
    return { clip, name, rule, out, steps, problems: problemsOf(clip, name, out, steps, found.get(clip.id)) };
  });
  const shown: Record<RowFilter, RowLine[]> = {
    all: lines,
    problems: lines.filter((l) => l.problems.length > 0),
    changes: lines.filter((l) => !l.out && l.steps > 0),
  };
  const inPlan = new Set(planned.map((c) => c.id));
  return {
    plan,
    summary: summaryOf(lines, plan, gaps, data),
    numbers: numbers.filter((n) => inPlan.has(n.clipId)),
    counts: { all: lines.length, problems: shown.problems.length, changes: shown.changes.length },
    rowsOf: (filter, from = 0, to = lines.length) => shown[filter].slice(from, to).map(rowOf),
    examples: (most) => examplesOf(lines, most).map(rowOf),
    fingerprint: () => fingerprintOf(plan),
  };
}

type Clip = NamingData['clips'][number];

/** What a row is made of. */
interface RowLine {
  clip: Clip;
  name: RenderedName;
  rule: string;
  out: boolean;
  steps: number;
  problems: readonly Problem[];
}

function examplesOf(lines: readonly RowLine[], most: number): RowLine[] {
  const of = new Map<string, RowLine>();
  for (const line of lines) {
    if (of.size === most) break;
    const key = `${line.rule}\0${line.clip.camera}\0${line.clip.day}`;
    if (!line.out && !of.has(key)) of.set(key, line);
  }
  return of.size > 0 ? [...of.values()] : lines.slice(0, 1);
}

const NONE: readonly Problem[] = [];

/** Everything that is wrong with a clip's name or place; of most nothing is, and they share that. */
function problemsOf(
  clip: Clip,
  name: RenderedName,
  out: boolean,
  steps: number,
  found: readonly Problem[] = NONE,
): readonly Problem[] {
  const held = clip.held.map((text): Problem => ({ level: 'look', code: 'held', text }));
  if (out) return held;
  const odd = steps > 0 ? oddities(clip, name) : NONE;
  const own = steps > 0 ? name.problems : NONE;
  if (own.length + found.length + odd.length + clip.beside.length === 0) return NONE;
  return [...own, ...found, ...clip.beside.map(lost), ...odd];
}

const rowOf = ({ clip: c, name, rule, out, steps, problems }: RowLine): NamingRow => ({
  clipId: c.id,
  original: shownPath(c.original),
  current: shownPath(c.current),
  extension: c.extension,
  card: c.card,
  camera: c.camera,
  day: c.day ?? 0,
  rule,
  facts: c.facts,
  parts: name.parts,
  stem: name.stem,
  folder: name.folder,
  files: c.files.length,
  steps,
  out,
  problems: [...problems],
});

/** What is the same for every plan of the same clips: their order, and whose files are where. */
interface Known {
  order: readonly Clip[];
  owners: ReadonlyMap<string, string>;
}
const known = new WeakMap<NamingData, Known>();
function knownOf(data: NamingData): Known {
  const before = known.get(data);
  if (before) return before;
  const owners = new Map<string, string>();
  for (const c of data.clips) for (const f of c.files) owners.set(placeKey(f.place), c.id);
  const now = { order: inOrder(data.clips), owners };
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

/** Clips of the job that would have one name in different folders: an edit that looks for them by name finds either. */
function namesakes(
  data: NamingData,
  named: ReadonlyMap<string, Named>,
  isOut: (c: Clip) => boolean,
): (Problem & { clipId: string })[] {
  const first = new Map<string, string>();
  const several = new Map<string, string[]>();
  for (const c of data.clips) {
    const stem = isOut(c) ? c.current : named.get(c.id)!.name.stem;
    const key = nameKey(stem);
    const other = first.get(key);
    if (other === undefined) first.set(key, c.id);
    else several.set(key, [...(several.get(key) ?? [other]), c.id]);
  }
  return [...several.values()].flatMap((ids) =>
    ids.map((clipId) => ({
      clipId,
      level: 'look' as const,
      code: 'namesake',
      text: `${ids.length} clips of the job would have this name`,
      mend: 'add a block that tells them apart: an edit finds its clips by name',
    })),
  );
}

/** By day, card and shooting. */
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
  let [stops, looks, moved, followers] = [0, 0, 0, 0];
  for (const r of rows) {
    if (r.steps > 0) moved++;
    if (!r.out && r.steps === 0) followers++;
    const bad = r.problems.filter((p) => p.level === 'stop').length;
    stops += bad;
    looks += r.problems.length - bad;
  }
  const copies = plan.steps.filter((s) => s.kind === 'copy' || s.kind === 'carry');
  return {
    total: rows.length,
    steps: plan.steps.length,
    clips: moved,
    right: followers,
    copies: copies.length,
    copyBytes: copies.reduce((n, s) => n + s.size, 0),
    links: plan.steps.filter((s) => s.kind === 'link').length,
    stops,
    looks,
    shelf: shelfAfter(rows, data),
    rates: [...new Set(data.clips.flatMap((c) => (c.rate ? [formatRate(c.rate)] : [])))].sort(
      natural.compare,
    ),
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
  const movable = new Set(data.roots.filter((r) => r.movable).map((r) => r.id));
  const tree = new Map<string, { clips: number; before: number; changed: boolean; of: Belongs }>();
  const at = (folder: string) => {
    const known = tree.get(folder);
    if (known) return known;
    const made = { clips: 0, before: 0, changed: false, of: new Belongs() };
    tree.set(folder, made);
    return made;
  };
  for (const r of rows) {
    const original = r.clip.files.find((f) => f.role === 'original');
    const here = original && movable.has(original.place.root) ? folderOf(original.place.path) : null;
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
