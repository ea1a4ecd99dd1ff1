import { LISTENED, loudnessCurve, soundOffset } from '../../core/analysis';
import type { HeardOf } from '../../core/choose';
import { decode } from '../analysis';
import { soundsOf, withFile } from '../cards';
import { among } from '../platform/db/among';
import { NotFound, Unreadable } from '../platform/errors';
import type { DiskPath } from '../../core/platform/names';
import { type Footage, withInput } from '../platform/media/input';
import { endIfStopped, type TaskContext } from '../platform/work/context';
import { type Row, rowsById } from './catalogue';
import type { InJob } from './ports';
import { type Group, groupsOf, referenceOf, statesOf } from './rolling';
import { soundChecks } from './tables';

/** Seconds of sound that are compared at most. */
const LONG = 300;
/** Seconds by which clips may stand otherwise than their timecodes, or their clocks, say. */
const MARGIN = { timecode: 15, clock: 120, person: 15 } as const;

/**
 * Compares the sound of clips that roll together, and keeps what it says of when they began: of the group of a clip or, of null, of all of
 * them. What was compared before is not again. Returns how many were compared, and of how many the sound tells.
 */
export async function listen(runtime: InJob, clip: string | null, task: TaskContext): Promise<HeardOf> {
  const rows = await rowsById(runtime);
  const groups = await groupsOf(runtime);
  const one = clip === null ? null : groups.get(clip);
  const meant = clip === null ? [...new Set(groups.values())] : one ? [one] : [];
  const pairs = meant.flatMap((g) => pairsOf(g, rows));
  const done: HeardOf = { compared: 0, told: 0, faults: [] };
  const ids = [...new Set(pairs.flatMap((p) => [p.reference.id, p.other.id]))];
  const states = await statesOf(runtime, ids);
  const checks = await runtime.db.select().from(soundChecks).where(among(soundChecks.a, ids));
  const known = new Map(checks.map((c) => [`${c.a} ${c.b}`, c.of]));
  for (const [i, pair] of pairs.entries()) {
    endIfStopped(task);
    task.progress(i, pairs.length);
    try {
      const told = await compared(runtime, pair, { states, known });
      if (told === null) continue;
      done.compared++;
      if (told) done.told++;
    } catch (e) {
      // One that cannot be read, is gone or offline keeps nothing from the others.
      if (!(e instanceof Unreadable || e instanceof NotFound)) throw e;
      done.faults.push(e.message);
    }
  }
  if (done.compared > 0) runtime.events.changed('choose');
  return done;
}

type Stands = Group['clips'][number];
interface Pair {
  reference: Stands & { row: Row };
  other: Stands & { row: Row };
}

/** The clips of a group that have sound, each with the one they are compared with. */
function pairsOf(group: Group, rows: ReadonlyMap<string, Row>): Pair[] {
  const id = referenceOf(group, rows);
  const stands = group.clips.flatMap((c) => {
    const row = rows.get(c.id);
    return row && (row.brief.channels ?? 0) > 0 ? [{ ...c, row }] : [];
  });
  const reference = stands.find((s) => s.id === id);
  return reference ? stands.filter((s) => s.id !== id).map((other) => ({ reference, other })) : [];
}

/** Whether the sound of two tells how far apart they begin; null where that is known already, or they share nothing. */
async function compared(
  runtime: InJob,
  { reference, other }: Pair,
  { states, known }: { states: ReadonlyMap<string, string>; known: ReadonlyMap<string, string> },
): Promise<boolean | null> {
  const [a, b] = reference.id < other.id ? [reference, other] : [other, reference];
  const of = `${states.get(a.id)} ${states.get(b.id)}`;
  if (known.get(`${a.id} ${b.id}`) === of) return null;
  const ends = [reference, other].map((s) => s.offset + (s.row.brief.seconds ?? 0));
  const from = Math.max(reference.offset, other.offset);
  const long = Math.min(Math.min(...ends) - from, LONG);
  if (long <= 0) return null;
  const margin = Math.max(MARGIN[reference.by], MARGIN[other.by]);
  const first = await soundOf(runtime, reference.id, { from: from - reference.offset, long });
  const second = await soundOf(runtime, other.id, {
    from: from - other.offset - margin,
    long: long + 2 * margin,
  });
  const found = soundOffset(loudnessCurve(first.samples), loudnessCurve(second.samples));
  const apart = found && found.seconds + first.from - second.from;
  const row = {
    ...{ a: a.id, b: b.id, of, alike: found?.alike ?? 0 },
    offset: apart === null ? null : a.id === reference.id ? apart : -apart,
  };
  await runtime.db
    .insert(soundChecks)
    .values(row)
    .onConflictDoUpdate({ target: [soundChecks.a, soundChecks.b], set: row });
  return found !== null;
}

/** A part of a clip's first sound, of one channel; `from` is where it really begins, which is in the clip. Its own, or that which is apart. */
async function soundOf(
  runtime: InJob,
  clip: string,
  part: { from: number; long: number },
): Promise<{ samples: Int16Array; from: number }> {
  const from = Math.max(0, part.from);
  const long = part.from + part.long - from;
  const [apart] = await soundsOf(runtime, clip);
  const listenTo = (file: Footage | DiskPath): Promise<Uint8Array> =>
    withInput(file, ({ args, seekable }) => {
      const seek = ['-ss', from.toFixed(6)];
      // Sound that begins behind the picture is silent until then.
      const out = ['-map', '0:a:0', '-ac', '1', '-af', `aresample=${LISTENED}:async=1:first_pts=0`];
      return decode(
        file,
        [
          ...(seekable ? seek : []),
          ...args,
          ...(seekable ? [] : seek),
          ...out,
          ...['-t', long.toFixed(6), '-c:a', 'pcm_s16le', '-f', 's16le', 'pipe:1'],
        ],
        { minutes: 10 },
      );
    });
  const bytes = apart ? await listenTo(apart) : await withFile(runtime, clip, 'original', listenTo);
  // Numbers of two bytes each have to begin at an even one.
  return { samples: new Int16Array(Uint8Array.from(bytes).buffer, 0, bytes.length >> 1), from };
}
