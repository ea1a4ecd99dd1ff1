import { sql } from 'drizzle-orm';
import path from 'node:path';
import { type Edit, type EditEvent, RehearsalQuery, writeEdl, writeOtio } from '../src/core/handover';
import { rate } from '../src/core/platform/timecode/rate';
import { allUpToDate } from '../src/server/facts';
import { editEvents, editView, rehearsalView, takeEdit } from '../src/server/handover';
import { testShelf } from '../src/server/testing/media';
import { storeJobOfMany } from '../src/server/testing/manyClips';
import { packageAgainstCp } from './workers/package';
import { sheetOf } from './workers/sheet';

// What it takes to lay a timeline of five thousand events against very many clips, and to rehearse ten thousand: with nothing known yet, as
// the first who asks after a start or a change, and with the clips known. And what it takes to hand four GiB over, against cp and xxhsum; and a contact sheet of a thousand clips.

const CLIPS = Number(process.env.BENCH_CLIPS ?? 50_000);
const REHEARSED = Math.min(10_000, CLIPS);
const EVENTS = 5000;
const SHEET = Math.min(1000, CLIPS);
const BYTES = Number(process.env.BENCH_BYTES ?? 4 * 2 ** 30);

const timed = async <T>(work: () => Promise<T>): Promise<[number, T]> => {
  const begun = performance.now();
  const result = await work();
  return [(performance.now() - begun) / 1000, result];
};

/** A job of so many clips of 250 frames, each with a timecode of its own; every tenth begins at zero. */
async function jobOf(clips: number) {
  const shelf = await testShelf({ kept: true });
  const { runtime } = shelf;
  await storeJobOfMany(runtime, path.join(shelf.dir, 'cards'), clips);
  await runtime.db.execute(sql`
    update facts set value = jsonb_set(value, '{timecode,frame}', to_jsonb(case when clip % 10 = 0 then 0 else (clip * 37) % 2000000 end))
    where field = 'start'`);
  await runtime.db.execute(sql`
    update facts set number = 250, words = '250' where field = 'frames'`);
  // As it is once footage has been read.
  await allUpToDate(runtime);
  return shelf;
}

/** A timeline that names clips by file, by name and not at all, in turns. */
async function timelineOf({ runtime }: Awaited<ReturnType<typeof jobOf>>): Promise<Edit> {
  const { rows } = await runtime.db.execute<{
    original: string;
    frame: number;
    num: number;
    den: number;
  }>(sql`
    select c.original, (f.value #>> '{timecode,frame}')::int as frame,
      (f.value #>> '{timecode,rate,num}')::int as num, (f.value #>> '{timecode,rate,den}')::int as den
    from facts f join shown s on s.number = f.clip join clips c on c.id = s.clip where f.field = 'start' and f.chosen
    order by md5(c.id) limit ${EVENTS}`);
  const events = rows.map(({ original, frame, num, den }, i): EditEvent => ({
    ...{ label: String(i + 1), from: i * 50, to: i * 50 + 50, reel: null, speed: 1, transition: null },
    name: i % 3 === 0 ? null : original,
    file: i % 3 === 1 ? `${original}.MP4` : null,
    source: { from: frame + 100, frames: 50, rate: rate(num, den), drop: null },
  }));
  return {
    ...{ name: 'Long', rate: rate(25), start: 90_000, drop: false, faults: [] },
    tracks: [{ name: 'V1', kind: 'video', events }],
  };
}

async function edits(): Promise<void> {
  const many = await jobOf(CLIPS);
  const edit = await timelineOf(many);
  const otio = writeOtio(edit, (e) =>
    e.file === null
      ? null
      : {
          media: [
            [
              'DEFAULT_MEDIA',
              { url: `file:///cards/${e.file}`, name: e.file, from: 0, frames: 250, rate: rate(25) },
            ],
          ],
          ...{ marks: [], facts: {} },
        },
  );
  const answer = (text: string, file: string) =>
    timed(async () => {
      const { id } = await takeEdit(many.runtime, { file, text, rate: rate(25) });
      await editEvents(many.runtime, id, { verdict: null, shifted: false, offset: 0, limit: 100 });
      return editView(many.runtime, id);
    });
  const [first, view] = await answer(otio, 'long.otio');
  console.log(
    `${EVENTS} events, ${(otio.length / 1e6).toFixed(1)} MB, against ${CLIPS} clips: ${JSON.stringify(view.counts)}`,
  );
  console.log(`figure handover.timeline_first_s ${first.toFixed(2)} bound 2`);
  const [again] = await answer(otio.replace('"Long"', '"Longer"'), 'longer.otio');
  console.log(`figure handover.timeline_s ${again.toFixed(2)} bound 2`);
  const [list] = await answer(writeEdl(edit, edit.tracks), 'long.edl');
  console.log(`figure handover.list_s ${list.toFixed(2)} bound 2`);
  await many.close();

  const some = await jobOf(REHEARSED);
  const [rehearsed, { clips, verdicts }] = await timed(() =>
    rehearsalView(some.runtime, RehearsalQuery.parse({})),
  );
  console.log(`${clips} clips rehearsed: ${JSON.stringify(verdicts)}`);
  console.log(`figure handover.rehearsal_s ${rehearsed.toFixed(2)} bound 2`);
  await some.close();
}

async function sheet(): Promise<void> {
  const { seconds, found } = await sheetOf(SHEET);
  console.log(`a contact sheet of ${SHEET} clips: ${found}`);
  console.log(`figure handover.contact_sheet_s ${seconds.toFixed(2)} bound 20`);
}

async function packages(): Promise<void> {
  const { typed, ours, where } = await packageAgainstCp(BYTES);
  console.log(
    `a package of ${(BYTES / 2 ** 30).toFixed(1)} GiB ${where}, twice: typed ${typed.toFixed(1)} s, ours ${ours.toFixed(1)} s`,
  );
  console.log(`figure handover.package_time_ratio ${(ours / typed).toFixed(2)} bound 0.75`);
}

/** `BENCH_PART` names the one that is wanted alone. */
const PARTS = { edits, sheet, packages };
for (const [name, run] of Object.entries(PARTS)) {
  if ((process.env.BENCH_PART ?? name) === name) await run();
}
