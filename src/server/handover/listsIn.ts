import { and, eq, inArray } from 'drizzle-orm';
import { countOf } from '../../core/choose';
import type { FieldId } from '../../core/facts';
import {
  type Given,
  type Listed,
  type ListIn,
  type ListTaken,
  type ListView,
  readList,
  type ReadList,
} from '../../core/handover';
import { shownPath } from '../../core/platform/names';
import { clipsOf, grouped, splitPath } from '../cards';
import { clips, files } from '../cards/tables';
import { takeMarks } from '../choose';
import { chosenWords, sayOfClips } from '../facts';
import { shown } from '../facts/tables';
import { Refused } from '../platform/errors';
import type { InJob } from './ports';
import { clipsToConnect } from './sides';

/** Lines that are shown, of those with a clip and of those without. */
const SHOWN = 200;

/** The job's clips as lists may mean them: by every name of theirs, those that were not read, too. */
async function clipsToList(runtime: InJob): Promise<Listed[]> {
  const { db, job } = runtime;
  const starts = new Map(
    (await clipsToConnect(runtime)).clips.map((c) => [c.clip, c.start ?? c.original.start]),
  );
  const called = grouped(
    await db
      .select({ clip: files.clip, path: files.path, taken: files.takenPath })
      .from(files)
      .where(and(eq(files.role, 'original'), inArray(files.clip, clipsOf(db, job)))),
    (f) => f.clip,
    (f) => (f.taken === null ? [f.path] : [f.path, f.taken]),
  );
  const rows = await db
    .select({
      ...{ id: clips.id, card: clips.card, original: clips.original, kind: clips.kind },
      ...{ name: shown.name, brief: shown.brief },
    })
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(eq(clips.job, job));
  return rows.map(({ id, card, original, kind, name, brief }): Listed => {
    const names = (called.get(id) ?? []).flat().map((p) => {
      const { stem, extension } = splitPath(p);
      return shownPath(`${stem}${extension}`);
    });
    const counted = brief && countOf({ ...brief, kind });
    return {
      ...{ id, card, shown: name || original, names: [...new Set([...names, shownPath(original)])] },
      ...{ start: starts.get(id) ?? null, rate: counted?.rate ?? null, frames: counted?.frames ?? null },
    };
  });
}

async function readIn(
  runtime: InJob,
  { text, columns }: ListIn,
): Promise<{ read: ReadList; clips: Listed[] }> {
  const all = await clipsToList(runtime);
  try {
    return { read: readList(text, all, columns), clips: all };
  } catch (e) {
    throw new Refused(e instanceof Error ? e.message : String(e), {
      next: 'Save it as CSV in UTF-8, with a first line that names the columns.',
    });
  }
}

/** Fields of clips that a list says. */
const SAID = { scene: 'scene', take: 'take', note: 'comment' } as const satisfies Record<string, FieldId>;

/** What is known of a clip that a line says otherwise. */
const replacedBy = (given: Given, now: Readonly<Record<string, string>>): string[] =>
  (['scene', 'take', 'note'] as const).flatMap((k) => {
    const was = now[SAID[k]];
    return given[k] === '' || was === undefined || was === given[k] ? [] : [`${k} ${was}`];
  });

/** Which clips a list means and what it gives to them, before anything is taken. Throws Refused where it cannot be read. */
export async function listView(runtime: InJob, wanted: ListIn): Promise<ListView> {
  const { read, clips: all } = await readIn(runtime, wanted);
  const called = new Map(all.map((c) => [c.id, `${c.shown} (${c.card})`]));
  const now = await chosenWords(runtime, Object.values(SAID));
  const [found, lost] = [
    read.lines.filter((l) => l.clip !== null),
    read.lines.filter((l) => l.clip === null),
  ];
  return {
    head: read.head.map((h) => h.slice(0, 200)),
    columns: read.columns,
    found: found.length,
    lost: lost.length,
    clips: new Set(found.map((l) => l.clip)).size,
    lines: [...lost.slice(0, SHOWN), ...found.slice(0, SHOWN)].map(({ line, said, clip, why, given }) => ({
      ...{ line, said, why, given },
      clip: clip === null ? null : called.get(clip)!,
      replaces: clip === null ? [] : replacedBy(given, now.get(clip) ?? {}),
    })),
  };
}

/** Takes from a list what it gives to clips that it means: keywords and ranges, which can be undone, and what it says of scenes, takes and notes. */
export async function takeList(runtime: InJob, wanted: ListIn): Promise<ListTaken> {
  const { read } = await readIn(runtime, wanted);
  const lines = read.lines.flatMap(({ clip, given }) => (clip === null ? [] : [{ clip, given }]));
  const notes = grouped(
    lines.filter(({ given }) => given.note !== ''),
    (l) => l.clip,
    (l) => l.given.note,
  );
  const said = lines.flatMap(({ clip, given: { scene, take, circled, note } }) => {
    const values: [FieldId, string][] = [
      ['scene', scene],
      ['take', take],
      ['circled', circled === null ? '' : circled ? 'yes' : 'no'],
      // What several lines say of a clip is one note.
      ['comment', note === '' ? '' : notes.get(clip)!.join('; ')],
    ];
    return values.flatMap(([field, value]) => (value === '' ? [] : [{ clip, field, value }]));
  });
  const marked = lines.filter(({ given }) => given.range !== null || given.keywords.length > 0);
  if (said.length === 0 && marked.length === 0)
    throw new Refused('This list gives nothing to any clip of the job.', {
      next: 'Say what its columns hold, or give another list.',
    });
  const { text, undo } =
    marked.length === 0
      ? { text: '', undo: null }
      : await takeMarks(
          runtime,
          marked.map(({ clip, given: { range, keywords } }) => ({ clip, range, keywords })),
        );
  const filled = said.length === 0 ? null : await sayOfClips(runtime, { said });
  return { text, undo, said: filled?.changed ?? 0, undoSaid: filled?.undo ?? null };
}
