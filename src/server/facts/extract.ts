import { and, asc, eq } from 'drizzle-orm';
import path from 'node:path';
import { factsCsv, factsJson, type FactClip, statedFields } from '../../core/facts/factFiles';
import { FIELDS, fieldOf, SOURCE_WORDS } from '../../core/facts/catalogue';
import { factsOf } from '../../core/facts/facts';
import type { Extracted, Extraction } from '../../core/facts/shapes';
import { showFact } from '../../core/facts/table';
import { shownPath } from '../../core/platform/names';
import { clips } from '../cards/tables';
import { Refused } from '../platform/errors';
import { inWords } from '../platform/files/faults';
import { joinPath } from '../platform/files/names';
import { resolveIn } from '../platform/files/paths';
import type { InJob } from './ports';
import { factsOfClips } from './facts';
import { factIds } from './table';
import { ofFiles } from './workOut';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { readFolder } from './readFolder';
import { alone, endIfStopped, type TaskContext } from '../platform/work/context';
import { listRoots, rootById } from '../places';
import { lstat, mkdir, mkdirNew, writeFile } from '../platform/files/onDisk';
import { readAll } from '../platform/files/plainFile';

/** A look file of a clip; its place may be offline by the time it is copied. */
interface Look {
  name: string;
  find: () => Promise<string>;
}

/** A clip to be written, with its look files. */
interface Ready extends FactClip {
  fault: string | null;
  looks: Look[];
}

async function gather(
  runtime: InJob,
  { from }: Extraction,
  task: TaskContext,
): Promise<{ ready: Ready[]; what: string }> {
  if (from.kind === 'folder') {
    const job = await requireJob(runtime);
    const read = await readFolder(runtime, from.root, from.path);
    const ready = read.map((c): Ready => {
      const statements = [...c.statements, ...ofFiles(c.family.files, c.name, job.zoneMinutes)];
      return {
        name: c.name,
        card: null,
        statements,
        facts: factsOf(statements, { trust: job.trust, jobRate: job.rate }),
        notes: c.notes,
        fault: c.fault,
        looks: c.disk.files
          .filter((f) => f.role === 'look')
          .map(({ file }) => ({ name: path.basename(file), find: () => Promise.resolve(file) })),
      };
    });
    return { ready, what: from.path.split('/').at(-1) || (await rootById(runtime, from.root)).name };
  }
  const where = and(eq(clips.job, runtime.job), from.kind === 'card' ? eq(clips.card, from.card) : undefined);
  const ids =
    from.kind === 'clips'
      ? from.clips
      : from.kind === 'table'
        ? await factIds(runtime, { ...from.filter, sorting: null, offset: 0, limit: 1_000_000 })
        : (
            await runtime.db.select({ id: clips.id }).from(clips).where(where).orderBy(asc(clips.original))
          ).map((c) => c.id);
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const found = await factsOfClips(runtime, ids, task);
  const ready = found.map((c): Ready => ({
    ...c,
    looks: c.family
      .filter((f) => f.role === 'look')
      .map((f) => ({ name: path.basename(f.path), find: () => resolveIn(roots.get(f.root)!, f.path) })),
  }));
  return {
    ready,
    what:
      from.kind === 'card'
        ? from.card
        : from.kind === 'all'
          ? 'all'
          : ready.length === 1
            ? ready[0]!.name
            : `${ready.length} clips`,
  };
}

/** Writes the facts of clips to a new folder of the handover root, and their look files beside them under the clips' names. */
export async function extract(
  runtime: InJob,
  wanted: Extraction,
  task: TaskContext = alone(),
): Promise<Extracted> {
  const job = await requireJob(runtime);
  const { ready, what } = await gather(runtime, wanted, task);
  endIfStopped(task);
  if (ready.length === 0)
    throw new Refused('There is no clip to extract from.', {
      next: 'Choose a folder with footage, or clips of the job.',
    });
  const fields = wanted.fields ?? statedFields(ready, FIELDS);
  const root = await rootById(runtime, 'handover');
  const madeAt = new Date();
  const folder = await newFolder(
    root,
    `${job.code} facts ${what.replace(/[\\/:*?"<>|\u0000-\u001f]+/g, '-').slice(0, 60)} ${madeAt.toISOString().slice(0, 10)}`,
  );
  const at = await resolveIn(root, folder);
  const files: string[] = [];
  const write = async (name: string, text: string): Promise<void> => {
    await writeFile(joinPath(at, name), text, { flag: 'wx' });
    files.push(name);
  };
  if (wanted.formats.includes('csv')) await write('facts.csv', factsCsv(ready, fields));
  if (wanted.formats.includes('json'))
    await write('facts.json', factsJson(ready, fields, { job: job.name, madeAt: madeAt.toISOString() }));
  const faults = ready.flatMap((c) => [
    ...(c.fault === null ? [] : [{ name: c.name, why: c.fault }]),
    ...c.notes.map((why) => ({ name: c.name, why })),
  ]);
  if (wanted.looks) {
    for (const c of ready) {
      for (const look of c.looks) {
        try {
          files.push(`Looks/${await copyLook(await look.find(), joinPath(at, 'Looks'), c.name)}`);
        } catch (e) {
          faults.push({
            name: c.name,
            why: `its look ${shownPath(look.name)} could not be copied: ${inWords(e)}`,
          });
        }
      }
    }
  }
  await writeLog(
    runtime,
    'facts',
    `Extracted the facts of ${ready.length} ${ready.length === 1 ? 'clip' : 'clips'} (${what}) to ${folder}`,
  );
  runtime.events.changed('log');
  const [only] = ready;
  return {
    folder,
    place: at,
    files,
    clips: ready.length,
    faults,
    one:
      ready.length === 1
        ? fields.flatMap((id) => {
            const fact = only!.facts.get(id);
            return fact
              ? [
                  {
                    term: fieldOf(id).term,
                    value: showFact(fact)[0],
                    source: SOURCE_WORDS[fact.chosen.source],
                  },
                ]
              : [];
          })
        : null,
  };
}

/** The facts of clips as a table (`factsCsv`), with the fields that any of them states. */
export async function factsAsCsv(
  runtime: InJob,
  ids: readonly string[],
  task: TaskContext = alone(),
): Promise<string> {
  const known = await factsOfClips(runtime, ids, task);
  return factsCsv(known, statedFields(known, FIELDS));
}

/** Makes the folder, or the first of "…-2", "…-3" that is not there: nothing is ever added to what was handed over. */
async function newFolder(root: { id: string; path: string; name: string }, base: string): Promise<string> {
  for (let n = 1; ; n++) {
    const folder = n === 1 ? base : `${base}-${n}`;
    const at = await resolveIn(root, folder);
    await mkdir(path.dirname(at));
    const made = await mkdirNew(at).then(
      () => true,
      async (e: unknown) => {
        if (await lstat(at).catch(() => null)) return false;
        throw e;
      },
    );
    if (made) return folder;
  }
}

const MAX_LOOK = 256 << 20;

/** Copies a look under its clip's name; two clips of one name get numbers. */
async function copyLook(from: string, to: string, clip: string): Promise<string> {
  await mkdir(to);
  const extension = path.extname(from).toLowerCase();
  const plain = clip.replace(/[\\/:*?"<>|\u0000-\u001f]+/g, '-');
  const bytes = await readAll(from, MAX_LOOK);
  for (let n = 1; ; n++) {
    const name = `${plain}${n === 1 ? '' : `-${n}`}${extension}`;
    try {
      await writeFile(joinPath(to, name), bytes, { flag: 'wx' });
      return name;
    } catch (e) {
      if (!(e instanceof Error && 'code' in e && e.code === 'EEXIST')) throw e;
    }
  }
}
