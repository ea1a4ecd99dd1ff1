import {
  composePlan,
  type Composed,
  nameClips,
  type RowFilter,
  targetFolders,
} from '../../core/naming/compose';
import { fillingOf } from '../../core/naming/fill';
import { placeKey } from '../../core/naming/plan';
import type { NamingData, NamingRequest } from '../../core/naming';
import { strayed } from '../../core/naming/readBack';
import type { NamingRow } from '../../core/naming/shapes';
import { join } from '../../core/platform/names';
import { jobServer, ServerProblem } from '../platform/client';
import type { Answer, Ask, ShownRow } from './composer';

// Plans are made here, beside the page: a job of a hundred thousand clips is named while the page goes on.

let data: NamingData | null = null;
/** Names on the disk by folder, since the clips were loaded. */
let standing = new Map<string, Set<string>>();
let composed: Composed | null = null;
let asked: NamingRequest | null = null;
/** Counts the plans, so that what is asked of one is not answered by the next. */
let number = 0;

async function load(job: string, fields: readonly string[]): Promise<number> {
  data = await jobServer(job).namingData(fields);
  standing = new Map();
  return data.clips.length;
}

/** Folders asked about at once. */
const MOST_FOLDERS = 5000;

async function plan(job: string, request: NamingRequest) {
  if (!data) throw new Error('no clips are loaded');
  const begun = performance.now();
  const named = nameClips(data, request);
  const folders = targetFolders(data, request, named);
  const keyOf = ({ root, folder }: { root: string; folder: string }): string => `${root}\0${folder}`;
  const waited = performance.now();
  const unknown = folders.filter((f) => !standing.has(keyOf(f)));
  for (let i = 0; i < unknown.length; i += MOST_FOLDERS) {
    const some = unknown.slice(i, i + MOST_FOLDERS);
    const names = await jobServer(job).namesAt(some);
    some.forEach((f, n) =>
      standing.set(
        keyOf(f),
        new Set(names[n]!.map((name) => placeKey({ root: f.root, path: join(f.folder, name) }))),
      ),
    );
  }
  const answered = performance.now();
  const made = composePlan(data, request, named, (place) => {
    const folder = place.path.slice(0, Math.max(0, place.path.lastIndexOf('/')));
    return standing.get(keyOf({ root: place.root, folder }))?.has(placeKey(place)) ?? false;
  });
  composed = made;
  asked = request;
  number++;
  const shown = { number, summary: made.summary, examples: made.examples(40), counts: made.counts };
  // What the plan cost by itself, as the browser's own tools show it (`npm run bench naming`).
  performance.measure('plan', { start: begun, duration: performance.now() - begun - (answered - waited) });
  return shown;
}

const rowsOf = (filter: RowFilter, from: number, to: number): ShownRow[] =>
  (composed?.rowsOf(filter, from, to) ?? []).map((row) => ({ ...row, strayed: strayedOf(row) }));

/** Where a name that was given before does not follow the convention; null for a camera's name, and where it follows. */
function strayedOf(row: NamingRow): string | null {
  if (!asked || !data || row.out || row.current === row.original || row.current === row.stem) return null;
  const { convention } = asked.rules.find((r) => r.id === row.rule) ?? asked;
  return strayed(convention, row.current, row, { code: data.clips[0]?.job ?? null });
}

async function answer(ask: Ask): Promise<unknown> {
  switch (ask.kind) {
    case 'load':
      return load(ask.job, ask.fields);
    case 'plan':
      return plan(ask.job, ask.request);
    case 'fill':
      if (!data) throw new Error('no clips are loaded');
      return fillingOf(ask.source, data, ask.convention);
    case 'fingerprint':
      if (!composed || ask.number !== number)
        throw new Error('The list was made anew meanwhile: look at it, then apply.');
      return composed.fingerprint();
    case 'rows':
      return rowsOf(ask.filter, ask.from, ask.to);
  }
}

/** One after the other: a plan is of the clips that were loaded before it. */
let last: Promise<unknown> = Promise.resolve();
self.onmessage = ({ data: { id, ask } }: MessageEvent<{ id: number; ask: Ask }>) => {
  last = last
    .then(() => answer(ask))
    .then(
      (result): Answer => ({ id, result }),
      (e: unknown): Answer => ({
        id,
        problem:
          e instanceof ServerProblem
            ? e.details
            : {
                type: 'about:blank',
                title: 'Unexpected',
                status: 0,
                detail: e instanceof Error ? e.message : String(e),
              },
      }),
    )
    .then((said) => self.postMessage(said));
};
