import { cameraNumber } from '../intake';
import { formatRate, type Rate } from '../platform/timecode/rate';
import type { Block, Convention, CounterScope, FolderPlan } from './convention';
import { checkName, type Problem } from './check';

/** What a clip brings to its name. */
export interface NamingClip {
  id: string;
  job: string;
  day: number | null;
  /** yyyy-mm-dd */
  date: string | null;
  camera: string;
  card: string;
  rate: Rate | null;
  /** The clip's name on the camera's card, without extension. */
  original: string;
  /** Local time of the recording, "2026-05-06T14:22:05"; `null` where no source told. */
  recordedAt: string | null;
  /** Start timecode as a count of frames; orders clips of one second. */
  startFrame: number | null;
}

export interface NamePart {
  blockId: string;
  text: string;
}

export interface RenderedName {
  clipId: string;
  stem: string;
  /** Folder on the shelf, "/" between levels, "" for the root itself. */
  folder: string;
  parts: NamePart[];
  problems: Problem[];
}

/** Shooting order: recorded time, then timecode, then the camera's own name with its numbers counted as numbers. */
export function shootingOrder(a: NamingClip, b: NamingClip): number {
  return (
    compare(a.recordedAt ?? '9', b.recordedAt ?? '9') ||
    (a.startFrame ?? 0) - (b.startFrame ?? 0) ||
    byCameraName(a, b)
  );
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);
const natural = new Intl.Collator('en', { numeric: true });
const byCameraName = (a: NamingClip, b: NamingClip): number =>
  natural.compare(a.card, b.card) || natural.compare(a.original, b.original) || compare(a.id, b.id);

const SCOPE_KEY: Record<CounterScope, (c: NamingClip) => string> = {
  job: () => '',
  day: (c) => String(c.day),
  camera: (c) => c.camera,
  dayAndCamera: (c) => `${c.day}\0${c.camera}`,
  card: (c) => c.card,
};

/**
 * Renders the name and place of every clip. Counters run over all clips given, so give the whole job: a clip's number
 * depends on those shot before it.
 */
export function renderNames(
  convention: Convention,
  folders: FolderPlan,
  clips: readonly NamingClip[],
): RenderedName[] {
  const counters = new Map<string, Map<string, number>>();
  for (const block of convention.blocks) {
    if (block.kind !== 'counter') continue;
    const order = [...clips].sort(block.orderBy === 'recorded' ? shootingOrder : byCameraName);
    const next = new Map<string, number>();
    const numbers = new Map<string, number>();
    for (const clip of order) {
      const key = SCOPE_KEY[block.scope](clip);
      const n = next.get(key) ?? block.start;
      numbers.set(clip.id, n);
      next.set(key, n + 1);
    }
    counters.set(block.id, numbers);
  }
  return clips.map((clip) => {
    const problems: Problem[] = [];
    const parts: NamePart[] = [];
    for (const block of convention.blocks) {
      const text = renderBlock(block, clip, counters.get(block.id)?.get(clip.id) ?? 0);
      if (text === null)
        problems.push({
          level: 'look',
          code: 'blockEmpty',
          text: EMPTY_BLOCK[block.kind] ?? `no ${block.kind} is known`,
        });
      else if (text !== '') parts.push({ blockId: block.id, text });
    }
    const stem = parts.map((p) => p.text).join(convention.separator);
    const levels = folders.levels.map((l) => renderLevel(l, clip));
    problems.push(...checkName(stem), ...levels.flatMap(checkName));
    return { clipId: clip.id, stem, folder: levels.join('/'), parts, problems };
  });
}

const EMPTY_BLOCK: Partial<Record<Block['kind'], string>> = {
  rate: 'the frame rate is not known',
  day: 'the day is not known',
  date: 'the date is not known',
  original: 'the camera name has no number',
};

function renderBlock(block: Block, clip: NamingClip, counter: number): string | null {
  switch (block.kind) {
    case 'job':
      return clip.job;
    case 'day':
      return clip.day === null ? null : block.prefix + String(clip.day).padStart(block.digits, '0');
    case 'date':
      return clip.date === null ? null : formatDate(clip.date, block.style);
    case 'camera':
      return clip.camera;
    case 'card':
      return clip.card;
    case 'rate':
      return clip.rate === null ? null : formatRate(clip.rate).replace('.', '') + block.suffix;
    case 'words':
      return block.text;
    case 'original':
      return block.part === 'name' ? clip.original : (cameraNumber(clip.original)?.digits ?? null);
    case 'counter':
      return String(counter).padStart(block.digits, '0');
  }
}

function formatDate(date: string, style: 'yyyymmdd' | 'yymmdd' | 'yyyy-mm-dd'): string {
  if (style === 'yyyy-mm-dd') return date;
  const digits = date.replaceAll('-', '');
  return style === 'yymmdd' ? digits.slice(2) : digits;
}

function renderLevel(level: FolderPlan['levels'][number], clip: NamingClip): string {
  switch (level.kind) {
    case 'job':
      return clip.job;
    case 'day': {
      const number = clip.day === null ? 'no-day' : `D${clip.day}`;
      const date = clip.date ?? 'no-date';
      return level.style === 'number'
        ? number
        : level.style === 'date'
          ? date
          : clip.date
            ? `${number}_${date}`
            : number;
    }
    case 'camera':
      return clip.camera;
    case 'card':
      return clip.card;
  }
}
