import { CameraLabel } from '../platform/cameraLabel';
import type { CounterRun } from './counter';

/** What is already known of the job, as far as a new card's place depends on it. */
export interface KnownJob {
  cameras: { label: string; model: string | null; serials: readonly string[] }[];
  cardIds: string[];
  days: { number: number; date: string }[];
  /** The numbers of the clips of each card. */
  counters: { card: string; camera: string; runs: readonly CounterRun[] }[];
}

/** What a card shows of itself: its folder's names from the outermost in, and what was read from a clip of it. */
export interface CardEvidence {
  folders: string[];
  model: string | null;
  serial: string | null;
  /** yyyy-mm-dd of the first recording; `null` where no clip told. */
  date: string | null;
  /** The numbers of its clips. */
  runs: readonly CounterRun[];
}

export interface Suggested<T> {
  value: T;
  because: string;
}

export interface CardSuggestion {
  camera: Suggested<string>;
  cardId: Suggested<string>;
  day: Suggested<number>;
  date: Suggested<string | null>;
}

/**
 * Camera, card id and day for a new card, each with its reason. The folder's own name counts most when it looks
 * like a card id (a label, or what a camera of the job is called, and three digits: common practice), then the camera's serial number, its model, the counter that
 * goes on from another card's, and what is free.
 */
export function suggestCard(job: KnownJob, card: CardEvidence): CardSuggestion {
  // A label of digits alone would be found in years and counters.
  const labels = job.cameras
    .map((c) => c.label)
    .filter((l) => CameraLabel.safeParse(l).success && /[A-Z]/.test(l));
  const cardName = new RegExp(
    `(?:^|[^A-Za-z0-9])(${['[A-Z]', ...labels].join('|')})(\\d{3})(?![A-Za-z0-9])`,
    'u',
  );
  const named = [...card.folders]
    .reverse()
    .map((f) => cardName.exec(f))
    .find(Boolean);
  const bySerial = card.serial ? job.cameras.find((c) => c.serials.includes(card.serial!)) : undefined;
  // Where two cameras are of one model, or the one has another serial number, the model tells nothing.
  const alike = card.model
    ? job.cameras.filter((c) => c.model?.toLowerCase() === card.model!.toLowerCase())
    : [];
  const byModel =
    alike.length === 1 && (!card.serial || alike[0]!.serials.length === 0) ? alike[0] : undefined;
  const folderWord = [...card.folders]
    .reverse()
    .map((f) => /cam(?:era)?[ _-]?([A-Z]|\d{1,2})(?![A-Za-z0-9])/iu.exec(f))
    .find(Boolean);
  const next = counterBefore(job.counters, card.runs, 1);
  const camera: Suggested<string> = named
    ? { value: named[1]!, because: `the folder is called ${named[1]}${named[2]}` }
    : bySerial
      ? { value: bySerial.label, because: `camera ${bySerial.label} has serial number ${card.serial}` }
      : byModel
        ? { value: byModel.label, because: `camera ${byModel.label} is a ${byModel.model}` }
        : folderWord
          ? { value: folderWord[1]!.toUpperCase(), because: 'the folder names the camera' }
          : next
            ? {
                value: next.camera,
                because: `its numbers go on after ${next.name}, the last of ${next.card}`,
              }
            : { value: freeLabel(job), because: 'the next free label' };

  const cardId = suggestId(job, camera.value, named ? `${named[1]}${named[2]}` : null, card.runs);
  const known = card.date ? job.days.find((d) => d.date === card.date) : undefined;
  const day: Suggested<number> = known
    ? { value: known.number, because: `day ${known.number} is ${known.date}` }
    : card.date
      ? { value: dayNumberFor(job, card.date), because: 'in order of the dates recorded' }
      : {
          value: Math.max(1, ...job.days.map((d) => d.number)),
          because: 'no date could be read: please check',
        };
  return {
    camera,
    cardId,
    day,
    date: {
      value: card.date,
      because: card.date ? 'when its first clip was recorded' : 'no clip states a date',
    },
  };
}

function suggestId(
  job: KnownJob,
  label: string,
  fromFolder: string | null,
  runs: readonly CounterRun[],
): Suggested<string> {
  const taken = new Set(job.cardIds.map((id) => id.toUpperCase()));
  const idOf = (n: number) => `${label}${String(n).padStart(3, '0')}`;
  if (fromFolder && !taken.has(fromFolder)) return { value: fromFolder, because: 'the name of its folder' };
  const before = counterBefore(
    job.counters.filter((c) => c.camera === label),
    runs,
    FAR,
  );
  const number = before && new RegExp(`^${label}(\\d{3})$`).exec(before.card.toUpperCase())?.[1];
  const following = number ? idOf(Number(number) + 1) : null;
  if (before && following && !taken.has(following))
    return { value: following, because: `its numbers come after ${before.name}, the last of ${before.card}` };
  let n = 1;
  while (taken.has(idOf(n))) n++;
  return {
    value: idOf(n),
    because: fromFolder ? `${fromFolder} is taken: the next free one` : 'the next free one',
  };
}

/** A counter that has gone on by more than this since another card says nothing of it. */
const FAR = 500;

/**
 * The card whose counter was last before a new card's clips, by no more than `most` numbers; `null` where none did, or where
 * the numbers of another card lie among them: a counter that begins anew on every card tells nothing.
 */
function counterBefore(
  cards: KnownJob['counters'],
  runs: readonly CounterRun[],
  most: number,
): { card: string; camera: string; name: string } | null {
  for (const run of runs) {
    const others = cards.flatMap(({ card, camera, runs: theirs }) =>
      theirs.filter((r) => r.pattern === run.pattern).map((r) => ({ card, camera, ...r })),
    );
    if (others.some((o) => o.first <= run.last && o.last >= run.first)) continue;
    const [before] = others
      .filter((o) => o.last < run.first && run.first - o.last <= most)
      .sort((a, b) => b.last - a.last);
    if (before) return { card: before.card, camera: before.camera, name: before.lastName };
  }
  return null;
}

/** A to Z, then AA to ZZ. */
function freeLabel(job: KnownJob): string {
  const taken = new Set(job.cameras.map((c) => c.label));
  const alphabet = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'];
  const two = alphabet.flatMap((a) => alphabet.map((b) => a + b));
  return [...alphabet, ...two].find((l) => !taken.has(l)) ?? 'A';
}

/**
 * The number for a date no day has yet. Days count calendar days from the first known one, so that cards may come in
 * any order; where that number is taken or below one, the next free number.
 */
function dayNumberFor(job: KnownJob, date: string): number {
  const first = [...job.days].sort((a, b) => (a.date < b.date ? -1 : 1))[0];
  const free = Math.max(0, ...job.days.map((d) => d.number)) + 1;
  if (!first) return 1;
  const number = first.number + Math.round((Date.parse(date) - Date.parse(first.date)) / 86_400_000);
  return number >= 1 && number < 1000 && !job.days.some((d) => d.number === number) ? number : free;
}
