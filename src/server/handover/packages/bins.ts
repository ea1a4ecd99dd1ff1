import { eq } from 'drizzle-orm';
import { SOUND_RATE } from '../../../core/choose';
import {
  type CollectionOut,
  type Edit,
  type EditEvent,
  type EditTrack,
  type EventOut,
  firstFrame,
  writeOtioCollection,
} from '../../../core/handover';
import { mostFrequent, type Rate } from '../../../core/platform/timecode/rate';
import { canDrop } from '../../../core/platform/timecode/timecode';
import { grouped } from '../../cards';
import { type Group, groupsOf, stringOutDetail } from '../../choose';
import { binned, bins, stringOuts, strung } from '../../choose/tables';
import { shown } from '../../facts/tables';
import { among } from '../../platform/db/among';
import { besideOf, eventOf, type Side, type There, timelineOf } from '../export';
import type { InJob } from '../ports';
import { clipsToConnect, inFrames, type Placed } from '../sides';

/** Clips of a set by their ids, in its order, with what is written of one of them. */
interface Written {
  clips: ReadonlyMap<string, Placed>;
  out: (of: Placed, at?: { rate: Rate; at: number; label: string }) => { event: EditEvent; beside: EventOut };
}

/**
 * The clips of a set in the bins they stand in, what ran at the same time as timelines with a track for each clip, and the string-outs that
 * are made of them alone, as one OpenTimelineIO. Null where there is none of these.
 */
export async function binsCollection(
  runtime: InJob,
  ids: readonly string[],
  { name, first, there }: { name: string; first: Side; there: There },
): Promise<string | null> {
  const { clips } = await clipsToConnect(runtime);
  const known = new Map(clips.map((c) => [c.clip, c]));
  const seconds = new Map(
    (
      await runtime.db
        .select({ clip: shown.clip, brief: shown.brief })
        .from(shown)
        .where(among(shown.clip, ids))
    ).map((r) => [r.clip, r.brief?.seconds ?? null]),
  );
  const placed = new Map(
    ids.flatMap((id) => {
      const of = known.get(id);
      const counted = of && inFrames(of, seconds.get(id) ?? null);
      return counted ? [[id, counted] as const] : [];
    }),
  );
  const beside = await besideOf(runtime, [...placed.values()], there);
  const written: Written = {
    clips: placed,
    out(of, at) {
      const { rate: r, frames } = of[first];
      const stretch = { from: 0, to: frames!, rate: r! };
      return {
        event: eventOf(of, first, there, stretch, at ?? { rate: r!, at: 0, label: '1' }),
        beside: beside(of, first, null),
      };
    },
  };
  const [inBins, rolled, strungOut] = [
    await binsOf(runtime, written),
    await rolledOf(runtime, written),
    await stringOutsOf(runtime, written, { first, there }),
  ];
  if (inBins.inside.length + rolled.length + strungOut.length === 0) return null;
  const part = (of: string, timelines: CollectionOut['timelines']): CollectionOut[] =>
    timelines.length === 0 ? [] : [{ name: of, clips: [], timelines, inside: [] }];
  return writeOtioCollection({
    ...inBins,
    name,
    inside: [...inBins.inside, ...part('Rolled together', rolled), ...part('String-outs', strungOut)],
  });
}

/** The bins in which any of the clips stands, inside each other; beside them those that stand in none. */
async function binsOf({ db, job }: InJob, { clips, out }: Written): Promise<CollectionOut> {
  const all = await db.select().from(bins).where(eq(bins.job, job)).orderBy(bins.name);
  const standing = await db
    .select()
    .from(binned)
    .where(among(binned.clip, [...clips.keys()]));
  const inBin = grouped(
    standing,
    (s) => s.bin,
    (s) => s.clip,
  );
  const of = (parent: string | null): CollectionOut[] =>
    all
      .filter((b) => b.parent === parent)
      .map((b): CollectionOut => {
        const its = new Set(inBin.get(b.id));
        return {
          name: b.name,
          clips: [...clips].filter(([id]) => its.has(id)).map(([, clip]) => out(clip)),
          timelines: [],
          inside: of(b.id),
        };
      })
      .filter((b) => b.clips.length + b.inside.length > 0);
  const binnedIds = new Set(standing.map((s) => s.clip));
  return {
    name: '',
    clips: [...clips].filter(([id]) => !binnedIds.has(id)).map(([, clip]) => out(clip)),
    timelines: [],
    inside: of(null),
  };
}

/** What ran at the same time as a clip, as far as it is in the set: each clip on a track of its own, where it began. */
async function rolledOf(runtime: InJob, written: Written): Promise<CollectionOut['timelines']> {
  const groups = new Set((await groupsOf(runtime)).values());
  return [...groups].flatMap((group) => {
    const made = rolledEdit(group, written);
    return made ? [made] : [];
  });
}

function rolledEdit(
  { clips: members }: Group,
  { clips, out }: Written,
): CollectionOut['timelines'][number] | null {
  const here = members.flatMap((m) => {
    const of = clips.get(m.id);
    return of ? [{ of, offset: m.offset }] : [];
  });
  const [earliest] = here;
  if (!earliest || here.length < 2) return null;
  const r =
    mostFrequent(here.filter((m) => !m.of.original.sound).map((m) => m.of.original.rate!)) ?? SOUND_RATE;
  const beside = new Map<EditEvent, EventOut>();
  const count = { video: 0, audio: 0 };
  const tracks = here.map(({ of, offset }): EditTrack => {
    const kind = of.original.sound ? 'audio' : 'video';
    count[kind]++;
    const at = Math.round(((offset - earliest.offset) * r.num) / r.den);
    const made = out(of, { rate: r, at, label: '1' });
    beside.set(made.event, made.beside);
    return { name: `${kind === 'audio' ? 'A' : 'V'}${count[kind]}`, kind, events: [made.event] };
  });
  const begins = earliest.of.original.start;
  const start = begins === null ? null : firstFrame({ start: begins, rate: r });
  const edit: Edit = {
    name: here
      .map((m) => m.of.original.name)
      .join(' + ')
      .slice(0, 120),
    ...{ rate: r, start: start ?? 0, drop: begins?.drop === true && canDrop(r), tracks, faults: [] },
  };
  return { edit, beside: (e) => beside.get(e) ?? null };
}

/** The string-outs that have no part of another clip than these. */
async function stringOutsOf(
  runtime: InJob,
  { clips }: Written,
  of: { first: Side; there: There },
): Promise<CollectionOut['timelines']> {
  const lists = await runtime.db.select().from(stringOuts).where(eq(stringOuts.job, runtime.job));
  const parts = grouped(
    await runtime.db
      .select({ list: strung.list, clip: strung.clip })
      .from(strung)
      .where(
        among(
          strung.list,
          lists.map((l) => l.id),
        ),
      ),
    (p) => p.list,
    (p) => p.clip,
  );
  const mine = lists.filter(({ id }) => parts.get(id)?.every((clip) => clips.has(clip)) === true);
  const made = [];
  for (const { id } of mine) {
    const detail = await stringOutDetail(runtime, id);
    made.push(await timelineOf(runtime, { name: detail.name, parts: detail.parts, ...of }));
  }
  return made;
}
