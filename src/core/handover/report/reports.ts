import { VERDICT_WORDS as WIPE_WORDS, type WipeView } from '../../custody';
import { isMoving } from '../../intake';
import { CHECK_WORDS, PAIR_WORDS, pairReason, PairState } from '../../proxies';
import { diskWords } from '../../platform/disks';
import { formatBytes, formatUtc, plural } from '../../platform/words';
import { VERDICT_WORDS } from '../rehearsal';
import {
  byDayAndCard,
  byKey,
  type ClipColumn,
  LENGTH,
  lengthOf,
  NAME,
  NOTES,
  RATE,
  SCENE,
  START,
  tableOf,
  TAKE,
  totals,
} from './parts';
import type { Cell, Report, ReportCard, ReportClip, ReportKind, Section, Tile } from './shapes';

/** What every report says of itself. */
export type About = Pick<Report, 'job' | 'of' | 'made'>;

const PICTURE: ClipColumn = {
  head: '',
  width: 1.5,
  of: (c) => ({ picture: c.id }),
};

const first = (c: ReportClip, ...fields: string[]): string =>
  fields.map((f) => c.facts[f]).find((v) => v !== undefined) ?? '';

const CAMERA: readonly ClipColumn[] = [
  PICTURE,
  NAME,
  SCENE,
  TAKE,
  START,
  LENGTH,
  RATE,
  {
    head: 'Picture',
    width: 2.2,
    of: (c) =>
      [c.width && c.height ? `${c.width}×${c.height}` : '', c.codec ?? ''].filter(Boolean).join('\n'),
  },
  {
    head: 'Lens',
    width: 1.8,
    optional: true,
    of: (c) => [c.facts.lensModel, c.facts.focalLength].filter(Boolean).join('\n'),
  },
  {
    head: 'Exposure',
    width: 2.8,
    optional: true,
    of: (c) =>
      [
        first(c, 'tStop', 'aperture'),
        c.facts.iso ? `ISO ${c.facts.iso.replace(/^ISO\s/, '')}` : '',
        first(c, 'shutterAngle', 'shutter'),
        c.facts.whiteBalance ?? '',
        c.facts.ndFilter ? `ND ${c.facts.ndFilter}` : '',
      ]
        .filter(Boolean)
        .join(' · '),
  },
  NOTES,
];

const SOUND: readonly ClipColumn[] = [
  { ...NAME, head: 'File' },
  SCENE,
  TAKE,
  START,
  LENGTH,
  {
    head: 'Format',
    width: 1.4,
    of: (c) => [c.facts.sampleRate, c.facts.audioBits].filter(Boolean).join('\n'),
  },
  {
    head: 'Tracks',
    width: 3,
    of: (c) => c.facts.trackNames ?? (c.channels === null ? '' : plural(c.channels, 'channel')),
  },
  NOTES,
];

const isSound = (c: ReportClip): boolean => c.kind === 'sound';

const camera = (clips: readonly ReportClip[]): Pick<Report, 'summary' | 'sections'> => {
  const pictures = clips.filter((c) => !isSound(c));
  return {
    summary: [totals(pictures), plural(byKey(pictures, (c) => c.card).length, 'card')],
    sections: byDayAndCard(pictures, (of) => ({ table: tableOf(CAMERA, of) })),
  };
};

const sound = (clips: readonly ReportClip[]): Pick<Report, 'summary' | 'sections'> => {
  const recordings = clips.filter(isSound);
  return {
    summary: [totals(recordings, 'recording')],
    sections: byDayAndCard(recordings, (of) => ({ table: tableOf(SOUND, of) }), 'recording'),
  };
};

const tileOf = (c: ReportClip): Tile => ({
  picture: c.id,
  name: c.name,
  lines: [
    [c.start ?? 'no timecode', c.seconds === null ? '' : lengthOf(c.seconds)].filter(Boolean).join(' · '),
    [c.facts.scene ? `scene ${c.facts.scene}` : '', c.facts.take ? `take ${c.facts.take}` : '', ...c.keywords]
      .filter(Boolean)
      .join(' · '),
  ].filter(Boolean),
});

const sheet = (clips: readonly ReportClip[]): Pick<Report, 'summary' | 'sections'> => {
  const pictures = clips.filter((c) => !isSound(c));
  return {
    summary: [totals(pictures)],
    sections: byDayAndCard(pictures, (of) => ({ tiles: of.map(tileOf) })),
  };
};

/** How pairs stand, marked. */
function pairCell(state: PairState, text: string): Cell {
  if (state === 'none') return text;
  if (state === 'proven') return { text, mark: 'good' };
  return { text, mark: state === 'lost' || state === 'mismatched' ? 'stop' : 'look' };
}

const PROXIES: readonly ClipColumn[] = [
  NAME,
  { head: 'Proxy', width: 3.4, exact: true, of: (c) => c.proxy?.file ?? '' },
  { head: 'Recipe', width: 2, optional: true, of: (c) => c.proxy?.recipe ?? '' },
  { head: 'Pair', width: 1.4, of: ({ pair: { state } }) => pairCell(state, PAIR_WORDS[state]) },
  {
    head: 'Why, or what was compared',
    width: 4,
    of: ({ pair: { state, checks, changes } }) => {
      const same = checks.filter((k) => k.result === 'same').map((k) => CHECK_WORDS[k.what]);
      const why =
        state === 'proven' ? (same.length > 0 ? `same: ${same.join(', ')}` : '') : pairReason(checks);
      return [why, ...changes].filter(Boolean).join('\n');
    },
  },
  { head: 'Compared', width: 1.5, of: (c) => (c.proxy?.checkedAt ? formatUtc(c.proxy.checkedAt) : '') },
];

const proxies = (clips: readonly ReportClip[]): Pick<Report, 'summary' | 'sections'> => {
  const moving = clips.filter((c) => isMoving(c.kind));
  const counted = PairState.options
    .map((state) => ({ state, n: moving.filter((c) => c.pair.state === state).length }))
    .filter(({ n }) => n > 0);
  return {
    summary: counted.map(({ state, n }) => pairCell(state, `${plural(n, 'clip')}: ${PAIR_WORDS[state]}`)),
    sections: byDayAndCard(moving, (of) => ({ table: tableOf(PROXIES, of) })),
  };
};

const NAMES: readonly ClipColumn[] = [
  {
    head: 'On its card',
    width: 3,
    exact: true,
    of: (c) => c.before ?? c.now.file,
  },
  {
    head: 'Now',
    width: 3,
    exact: true,
    of: (c) => ((c.before ?? c.now.file) === c.now.file ? 'not renamed' : c.now.file),
  },
  { head: 'Where', width: 4, exact: true, of: (c) => [c.now.root, c.now.folder].filter(Boolean).join(': ') },
  {
    head: 'With it',
    width: 1.2,
    optional: true,
    of: (c) => (c.beside === 0 ? '' : plural(c.beside, 'file')),
  },
];

const names = (clips: readonly ReportClip[]): Pick<Report, 'summary' | 'sections'> => {
  const other = clips.filter((c) => c.before !== null && c.before !== c.now.file).length;
  return {
    summary: [
      totals(clips),
      other === 0 ? 'None was renamed.' : `${plural(other, 'clip was', 'clips were')} renamed.`,
    ],
    sections: byDayAndCard(clips, (of) => ({ table: tableOf(NAMES, of) })),
  };
};

/** What may be missing of a clip: under which heading, and of one why. */
const MISSING: readonly { heading: string; about: string; why: (c: ReportClip) => string | null }[] = [
  {
    heading: 'Files that cannot be had now',
    about: 'Connect the drive, or look for changes on the card.',
    why: (c) => (c.away.length === 0 ? null : c.away.join('\n')),
  },
  {
    heading: 'Not read',
    about: 'Nothing is known of these but their files.',
    why: (c) =>
      c.state === 'unreadable'
        ? (c.fault ?? 'it cannot be read')
        : c.state === 'waiting'
          ? 'not read yet'
          : null,
  },
  {
    heading: 'An edit may not find the original',
    about: 'Mend it in the relink rehearsal.',
    why: (c) => (c.verdict === null || c.verdict === 'connects' ? null : VERDICT_WORDS[c.verdict]),
  },
  {
    heading: 'No timecode',
    about: 'It begins at zero, or has none.',
    why: (c) =>
      c.state !== 'read' || c.kind === 'still'
        ? null
        : c.start === null
          ? 'none'
          : /^00[:;]00[:;]00[:;]00$/.test(c.start)
            ? 'begins at zero'
            : null,
  },
  {
    heading: 'No proxy',
    about: 'The rules of the job want one.',
    why: ({ pair: { state } }) =>
      state === 'missing' ? 'not made' : state === 'waiting' ? 'being made, or waits for it' : null,
  },
  {
    heading: 'Proxies that are not proven',
    about: 'An edit made with them may not be what the originals show.',
    why: ({ pair: { state, checks } }) =>
      state === 'lost' || state === 'mismatched' || state === 'unproven'
        ? `${PAIR_WORDS[state]}${pairReason(checks) ? `: ${pairReason(checks)}` : ''}`
        : null,
  },
];

const LOOKED_FOR =
  'Looked for: files at their places, reading, timecode, proxies that the job wants and their proof, edits that find their originals, whether cards may be wiped, gaps in clip numbers.';

function missing({ clips, cards, answers }: Reported): Pick<Report, 'summary' | 'sections'> {
  const found = MISSING.map(({ heading, about, why }) => {
    const of = clips.flatMap((c) => {
      const words = why(c);
      return words === null ? [] : [{ c, words }];
    });
    return { heading, about, of };
  }).filter((m) => m.of.length > 0);
  const ofCards: Section[] = [
    {
      heading: 'Cards that are not proven to be wiped safely',
      about: 'Each file of a card needs two proven copies on drives of their own.',
      more: [],
      table: {
        columns: [
          { head: 'Card', width: 1, exact: true },
          { head: 'Why', width: 5 },
        ],
        rows: [
          ...answers
            .filter((x) => x.verdict !== 'yes')
            .map((x): Cell[] => [x.card, { text: x.because, mark: x.may ? 'look' : 'stop' }]),
          ...cards
            .filter((c) => !c.copied)
            .map((c): Cell[] => [
              c.id,
              { text: 'It was not copied here: no copy of it is known.', mark: 'stop' },
            ]),
        ],
      },
    },
    {
      heading: 'Gaps in clip numbers',
      about: 'A clip may have been deleted on the camera, or was not copied.',
      more: [],
      table: {
        columns: [
          { head: 'Card', width: 1, exact: true },
          { head: 'What', width: 5 },
        ],
        rows: cards.filter((c) => c.gaps.length > 0).map((c) => [c.id, c.gaps.join('\n')]),
      },
    },
  ];
  const sections = [
    ...found.map(({ heading, about, of }): Section => ({
      heading: `${heading}: ${plural(of.length, 'clip')}`,
      about,
      more: [],
      table: {
        columns: [
          { head: 'Card', width: 1, exact: true },
          { head: 'Clip', width: 2.5, exact: true },
          { head: 'Why', width: 5 },
        ],
        rows: of.map(({ c, words }) => [c.card, c.name, words]),
      },
    })),
    ...ofCards.filter((s) => s.table!.rows.length > 0),
  ];
  const affected = new Set(found.flatMap((m) => m.of.map(({ c }) => c.id)));
  return {
    summary:
      clips.length === 0
        ? []
        : sections.length === 0
          ? [{ text: `Nothing is missing of ${plural(clips.length, 'clip')}.`, mark: 'good' }, LOOKED_FOR]
          : [`Something is missing of ${affected.size} of ${plural(clips.length, 'clip')}.`, LOOKED_FOR],
    sections,
  };
}

/** How many files of a copy are proven. Good is only what holds all of the card, counts, and was looked at just now. */
function provenCell(copy: WipeView['copies'][number], onCard: number): Cell {
  const { proven, files, withCard, sameDisk, present } = copy;
  const text = `${proven} of ${plural(files, 'file')}${files < onCard ? `; the card has ${onCard}` : ''}`;
  if (withCard) return { text: `${text}, on the card’s own drive: does not count`, mark: 'stop' };
  if (!sameDisk) return { text: `${text}, not the drive it was verified on`, mark: 'stop' };
  if (proven < files || files < onCard) return { text, mark: 'stop' };
  return present ? { text, mark: 'good' } : { text: `${text}, as last seen`, mark: 'look' };
}

function wipe(
  answers: readonly WipeView[],
  cards: readonly ReportCard[],
): Pick<Report, 'summary' | 'sections'> {
  const count = (verdict: WipeView['verdict']) => answers.filter((a) => a.verdict === verdict).length;
  const asOf = count('asOf');
  const unknown = cards.filter((c) => !c.copied).map((c) => c.id);
  return {
    summary: [
      ...(answers.length === 0
        ? []
        : [
            `${plural(answers.length, 'card')}, of which ${count('yes')} may be wiped${asOf > 0 ? `, and ${asOf} by copies as they were last seen` : ''}`,
          ]),
      ...(unknown.length === 0
        ? []
        : [
            {
              text: `Not copied here, so that nothing is known of the card itself: ${unknown.join(', ')}`,
              mark: 'look' as const,
            },
          ]),
    ],
    sections: answers.map((a): Section => ({
      heading: `${a.card}: ${WIPE_WORDS[a.verdict]}`,
      about: `${plural(a.files, 'file')}, ${formatBytes(a.bytes)}. ${a.because}`,
      more: [...a.reasons.map((r) => r.text).filter((r) => r !== a.because), ...a.notes],
      table: {
        columns: [
          { head: 'Copy', width: 4, exact: true },
          { head: 'Drive', width: 3 },
          { head: 'Proven', width: 2 },
          { head: 'Verified', width: 2 },
          { head: 'Now', width: 2 },
        ],
        rows: a.copies.map((c): Cell[] => [
          `${c.rootName}: ${c.folder}`,
          `${diskWords(c.disk)}${c.standIn ? ' (stand-in)' : ''}`,
          provenCell(c, a.files),
          formatUtc(c.verifiedAt),
          c.present ? 'connected' : `not connected${c.seenAt ? `, last seen ${formatUtc(c.seenAt)}` : ''}`,
        ]),
      },
    })),
  };
}

/** What reports are written of: the clips of the set in their order, their cards, and for cards to be wiped the answers. */
export interface Reported {
  clips: readonly ReportClip[];
  cards: readonly ReportCard[];
  answers: readonly WipeView[];
}

const NONE: Record<ReportKind, string> = {
  camera: 'There is no picture among these clips.',
  sound: 'There is no sound recording among these clips.',
  sheet: 'There is no picture among these clips.',
  proxies: 'None of these clips is one that a proxy is made of.',
  names: 'There are no clips.',
  missing: 'There are no clips: nothing was looked for.',
  wipe: 'None of these clips came from a card that was copied here.',
};

/** The report of a kind. */
export function reportOf(kind: ReportKind, title: string, about: About, of: Reported): Report {
  const body = {
    camera: () => camera(of.clips),
    sound: () => sound(of.clips),
    sheet: () => sheet(of.clips),
    proxies: () => proxies(of.clips),
    names: () => names(of.clips),
    missing: () => missing(of),
    wipe: () => wipe(of.answers, of.cards),
  }[kind]();
  return { kind, title, ...about, ...body, none: NONE[kind] };
}
