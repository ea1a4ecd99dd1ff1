import { formatDay, formatBytes, plural } from '../../platform/words';
import { formatRate } from '../../platform/timecode/rate';
import { formatRunningTime } from '../../platform/timecode/timecode';
import type { Cell, Column, ReportClip, Section } from './shapes';

/** A column with what it says of a clip; one that may be left out where it says nothing of any. */
export interface ClipColumn extends Column {
  of: (clip: ReportClip) => Cell;
  optional?: true;
}

const isEmpty = (cell: Cell): boolean => cell === '';

/** A table of clips, without the columns that would be empty. */
export function tableOf(
  columns: readonly ClipColumn[],
  clips: readonly ReportClip[],
): NonNullable<Section['table']> {
  const cells = columns.map((c) => clips.map(c.of));
  const kept = columns.flatMap((c, i) => (c.optional && cells[i]!.every(isEmpty) ? [] : [i]));
  return {
    columns: kept.map((i) => {
      const { head, width, exact } = columns[i]!;
      return { head, width, ...(exact ? { exact } : {}) };
    }),
    rows: clips.map((_, row) => kept.map((i) => cells[i]![row]!)),
  };
}

/** Clips by a key, in the order of their first ones. */
export function byKey<K>(clips: readonly ReportClip[], key: (c: ReportClip) => K): [K, ReportClip[]][] {
  const groups = new Map<K, ReportClip[]>();
  for (const c of clips) {
    const of = groups.get(key(c));
    if (of) of.push(c);
    else groups.set(key(c), [c]);
  }
  return [...groups];
}

/** "11 clips, 3:12, 1.2 GB". */
export const totals = (clips: readonly ReportClip[], one = 'clip'): string =>
  [
    plural(clips.length, one),
    formatRunningTime(clips.reduce((n, c) => n + (c.seconds ?? 0), 0)),
    formatBytes(clips.reduce((n, c) => n + c.bytes, 0)),
  ].join(', ');

/** A heading for each day, below it one for each card, with what `body` gives for its clips. */
export const byDayAndCard = (
  clips: readonly ReportClip[],
  body: (clips: readonly ReportClip[]) => Pick<Section, 'table' | 'tiles'>,
  one = 'clip',
): Section[] =>
  byKey(clips, (c) => c.day)
    .sort(([a], [b]) => a - b)
    .flatMap(([day, ofDay]) => [
      {
        heading: `Day ${day}, ${formatDay(ofDay[0]!.date)}`,
        about: totals(ofDay, one),
        more: [],
      },
      ...byKey(ofDay, (c) => c.card).map(([card, ofCard]): Section => ({
        heading: card,
        more: [],
        about: [`Camera ${ofCard[0]!.camera}`, ...modelsOf(ofCard), totals(ofCard, one)].join(' · '),
        ...body(ofCard),
      })),
    ]);

/** What the clips of a card say that recorded them; a model that names its maker is enough. */
function modelsOf(clips: readonly ReportClip[]): string[] {
  const said = new Set(
    clips.flatMap(
      ({ facts: { maker = '', model = '' } }) =>
        (model.startsWith(maker) ? model : `${maker} ${model}`).trim() || [],
    ),
  );
  return said.size === 0 ? [] : [[...said].join(', ')];
}

export const NAME: ClipColumn = {
  head: 'Clip',
  width: 3.4,
  exact: true,
  of: (c) => (c.name === c.original ? c.name : `${c.name}\n(${c.original})`),
};
export const SCENE: ClipColumn = { head: 'Scene', width: 1, optional: true, of: (c) => c.facts.scene ?? '' };
export const TAKE: ClipColumn = {
  head: 'Take',
  width: 0.9,
  optional: true,
  of: (c) => [c.facts.take, c.facts.circled === 'yes' ? 'circled' : ''].filter(Boolean).join(', '),
};
export const START: ClipColumn = {
  head: 'Start',
  width: 1.9,
  exact: true,
  of: (c) => c.start ?? (c.kind === 'still' ? '' : 'none'),
};
export const LENGTH: ClipColumn = {
  head: 'Length',
  width: 1,
  exact: true,
  of: (c) => (c.seconds === null ? '' : lengthOf(c.seconds)),
};
export const RATE: ClipColumn = {
  head: 'Rate',
  width: 0.9,
  optional: true,
  of: (c) => (c.rate ? formatRate(c.rate) : ''),
};

/** What people said of it, and what should be looked at. */
export const NOTES: ClipColumn = {
  head: 'Notes',
  width: 4,
  optional: true,
  of: (c) => {
    const said = [
      ...[c.facts.description, c.facts.comment].filter((x) => x !== undefined),
      ...(c.keywords.length > 0 ? [c.keywords.join(', ')] : []),
      ...c.notes,
    ];
    const wrong = c.problems.map((p) => p.text);
    const text = [...said, ...wrong].join('\n');
    if (wrong.length === 0) return text;
    return { text, mark: c.problems.some((p) => p.level === 'stop') ? 'stop' : 'look' };
  },
};

/** Seconds with a tenth under a minute, "12.4 s"; "3:12" beyond it. */
export const lengthOf = (seconds: number): string =>
  seconds < 59.95 ? `${seconds.toFixed(1)} s` : formatRunningTime(seconds);
