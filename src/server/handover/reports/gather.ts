import {
  type ClipSet,
  type Finding,
  REPORT_FIELDS,
  REPORT_WORDS,
  type Report,
  type ReportCard,
  type ReportClip,
  type ReportKind,
  type ReportRequest,
  reportOf,
} from '../../../core/handover';
import { isMade } from '../../../core/intake';
import { shownPath } from '../../../core/platform/names';
import { rate } from '../../../core/platform/timecode/rate';
import { addressOf, formatTimecode } from '../../../core/platform/timecode/timecode';
import { formatUtc } from '../../../core/platform/words';
import { clipView, type Everything, everything, grouped, inOrder, missingNumbers } from '../../cards';
import { wipeView } from '../../custody';
import { chosenWords } from '../../facts';
import { requireJob } from '../../jobs';
import { listRoots } from '../../places';
import { whyAway } from '../away';
import { marksOf } from '../marks';
import { clipsOfSet } from '../packages/sets';
import type { InJob } from '../ports';
import { findingsOf } from '../rehearsal';
import { clipsToConnect, nameOf } from '../sides';

const PAL = rate(25);

/** The report of a set as it is now. Throws NotFound where what names the set is gone. */
export async function reportNow(runtime: InJob, { kind, set }: ReportRequest): Promise<Report> {
  const job = await requireJob(runtime);
  const { name, ids } = await clipsOfSet(runtime, set);
  const all = await everything(runtime, set.kind === 'card' ? set.card : undefined);
  const clips = await clipsFor(runtime, kind, all, new Set(ids));
  const isOfCards = kind === 'wipe' || kind === 'missing';
  const cards = isOfCards ? cardsOf(set, all, clips) : [];
  const made = formatUtc(new Date().toISOString());
  return reportOf(
    kind,
    REPORT_WORDS[kind].name,
    { job: `${job.name} (${job.code})`, of: set.kind === 'job' ? 'the whole job' : name, made },
    {
      clips,
      cards,
      answers: await answersOf(runtime, cards),
    },
  );
}

/** The clips in shooting order, with what this kind of report says of them. */
async function clipsFor(
  runtime: InJob,
  kind: ReportKind,
  all: Everything,
  wanted: ReadonlySet<string>,
): Promise<ReportClip[]> {
  const views = all.clips
    .filter((c) => wanted.has(c.id))
    .map((c) => clipView(all, c))
    .sort(inOrder);
  const ids = views.map((v) => v.id);
  const isLogged = kind === 'camera' || kind === 'sound' || kind === 'sheet';
  const facts = await chosenWords(runtime, isLogged ? REPORT_FIELDS : []);
  const { ranges, words } = await marksOf(runtime, isLogged ? ids : []);
  const { clips: connected } = await clipsToConnect(runtime);
  const starts = new Map(connected.map((c) => [c.clip, c.original.start]));
  const findings: ReadonlyMap<string, Finding> = kind === 'missing' ? await findingsOf(runtime) : new Map();
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r.name]));
  const away = kind === 'missing' ? await awayOf(runtime, all, ids) : new Map<string, string[]>();
  return views.map((v): ReportClip => {
    const family = all.families.get(v.id) ?? [];
    const original = family.find((f) => f.role === 'original');
    const start = starts.get(v.id) ?? null;
    const proxy = family.find((f) => f.id === v.pair.file);
    const pair = proxy && all.pairs.get(proxy.id);
    // Ranges of sound alone count 25 a second.
    const at = (frame: number): string =>
      start ? `${formatTimecode(addressOf(start, frame, v.rate ?? PAL))} ` : '';
    return {
      ...v,
      date: all.dates.get(v.day) ?? null,
      facts: facts.get(v.id) ?? {},
      keywords: [...new Set((words.get(v.id) ?? []).map((w) => w.name))].sort(),
      notes: (ranges.get(v.id) ?? []).flatMap((r) => {
        const said = [r.name, r.note].filter(Boolean).join(': ');
        return said === '' ? [] : [`${at(r.from)}${said}`];
      }),
      before: original?.takenPath ? nameOf({ path: original.takenPath }) : null,
      now: {
        root: roots.get(original?.root ?? '') ?? '',
        folder: original ? shownPath(original.path.split('/').slice(0, -1).join('/')) : '',
        file: original ? nameOf(original) : '',
      },
      beside: Math.max(0, family.filter((f) => !isMade(f.role)).length - 1),
      proxy: proxy
        ? {
            file: nameOf(proxy),
            recipe: pair?.recipe?.name ?? null,
            checkedAt: pair?.checkedAt.toISOString() ?? null,
          }
        : null,
      verdict: v.kind === 'sound' ? null : (findings.get(v.id)?.verdict ?? null),
      away: away.get(v.id) ?? [],
    };
  });
}

/** Why files of clips cannot be had now, by clips. */
async function awayOf(
  runtime: InJob,
  all: Everything,
  ids: readonly string[],
): Promise<Map<string, string[]>> {
  const looked = ids.flatMap((id) => all.families.get(id) ?? []);
  const why = await whyAway(runtime, looked);
  const away = new Map<string, string[]>();
  for (const [i, f] of looked.entries()) {
    if (why[i] === null) continue;
    away.set(f.clip, [...(away.get(f.clip) ?? []), `${nameOf(f)}: ${why[i]!}`]);
  }
  return away;
}

/** The cards of these clips; of the whole job all there are. */
function cardsOf(set: ClipSet, all: Everything, clips: readonly ReportClip[]): ReportCard[] {
  const ids = set.kind === 'job' ? [...all.cards.keys()] : [...new Set(clips.map((c) => c.card))];
  const ofCard = grouped(
    all.clips,
    (c) => c.card,
    (c) => c,
  );
  return ids
    .sort((a, b) => a.localeCompare(b, 'en', { numeric: true }))
    .map((id) => ({
      id,
      copied: all.cards.get(id)!.physical !== null,
      gaps: missingNumbers(
        all,
        (ofCard.get(id) ?? []).map((c) => clipView(all, c)),
      ),
    }));
}

/** For each card that was copied whether it may be wiped, looked at now. */
async function answersOf(runtime: InJob, cards: readonly ReportCard[]) {
  const answers = [];
  for (const { id, copied } of cards) {
    if (copied) answers.push(await wipeView(runtime, id));
  }
  return answers;
}
