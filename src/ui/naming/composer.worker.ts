import {
  composePlan,
  hasStrayed,
  type Composed,
  nameClips,
  type RowFilter,
  targetFolders,
} from '../../core/naming/compose';
import { ofComing, withComing } from '../../core/naming/coming';
import { fillingOf } from '../../core/naming/fill';
import { Standing } from '../../core/naming/placeIndex';
import type { ChangedClip, Coming, NamingData, NamingRequest } from '../../core/naming';
import { suggestConvention } from '../../core/naming/suggest';
import { strayed } from '../../core/naming/readBack';
import type { NamingRow } from '../../core/naming/shapes';
import { jobServer, ServerProblem } from '../platform/client';
import type { Answer, Ask, ComingRead, ShownRow } from './composer';

// Plans are made here, beside the page: a job of a hundred thousand clips is named while the page goes on.

/** The job's clips, and those of a card that is not copied yet. */
let here: NamingData | null = null;
let ahead: NamingData['clips'] | null = null;
/** All of them. */
let data: NamingData | null = null;
/** Names on the disk by folder, since the clips were loaded. */
let standing = new Standing();
let composed: Composed | null = null;
/** The plan before it, of not very many clips. */
let before: Composed | null = null;
let asked: NamingRequest | null = null;
/** Counts the plans, so that what is asked of one is not answered by the next. */
let number = 0;

async function load(job: string, fields: readonly string[]): Promise<number> {
  here = await jobServer(job).namingData(fields);
  standing = new Standing();
  putTogether();
  return here.clips.length;
}

async function loadComing(job: string, coming: Coming, fields: readonly string[]): Promise<ComingRead> {
  const { clips, read, of } = await jobServer(job).comingNames(coming, fields);
  ahead = clips;
  putTogether();
  return { read, of };
}

function putTogether(): void {
  data = here && ahead ? withComing(here, ahead) : here;
}

/** Clips of which two plans are held: very many take too much room. */
const HELD = 20_000;

/**
 * What the plan that a person looked at would do. It may have been made anew in the moment before it was applied, by news that changed
 * nothing of it; one that would do something else is not applied unseen.
 */
function fingerprintOf(seen: number): string {
  const now = composed?.fingerprint();
  if (now === undefined || (seen !== number && !(seen === number - 1 && before?.fingerprint() === now)))
    throw new Error('The list was made anew meanwhile: look at it, then apply.');
  return now;
}

/** Folders asked about at once. */
const MOST_FOLDERS = 5000;

async function plan(job: string, wanted: NamingRequest, changed: readonly ChangedClip[]) {
  const request = ahead ? ofComing(wanted, ahead) : wanted;
  if (!data) throw new Error('no clips are loaded');
  const begun = performance.now();
  const named = nameClips(data, request);
  const folders = targetFolders(data, request, named);
  const waited = performance.now();
  const unknown = standing.unknown(folders);
  for (let i = 0; i < unknown.length; i += MOST_FOLDERS) {
    const some = unknown.slice(i, i + MOST_FOLDERS);
    const names = await jobServer(job).namesAt(some);
    some.forEach((folder, n) => standing.add(folder, names[n]!));
  }
  const answered = performance.now();
  const made = composePlan(data, request, named, standing.has, changed);
  before = composed && data.clips.length <= HELD ? composed : null;
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
  if (!asked || !data || row.out || !hasStrayed(row, row.stem)) return null;
  const { convention } = asked.rules.find((r) => r.id === row.rule) ?? asked;
  return strayed(convention, row.current, row, { code: data.clips[0]?.job ?? null });
}

async function answer(ask: Ask): Promise<unknown> {
  switch (ask.kind) {
    case 'load':
      return load(ask.job, ask.fields);
    case 'coming':
      return loadComing(ask.job, ask.coming, ask.fields);
    case 'plan':
      return plan(ask.job, ask.request, ask.changed);
    case 'fill':
      if (!data) throw new Error('no clips are loaded');
      return fillingOf(ask.source, data, ask.convention);
    case 'suggest':
      return suggestConvention(here?.clips ?? []);
    case 'fingerprint':
      return fingerprintOf(ask.number);
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
