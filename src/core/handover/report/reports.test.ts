import { expect, test } from '@jest/globals';
import type { WipeView } from '../../custody';
import { shownPath } from '../../platform/names';
import { rate } from '../../platform/timecode/rate';
import { lengthOf } from './parts';
import { reportPage } from './page';
import { type Reported, reportOf } from './reports';
import type { ReportCard, ReportClip, ReportKind } from './shapes';

const clip = (id: string, more: Partial<ReportClip> = {}): ReportClip =>
  ({
    ...{ id, card: 'B001', camera: 'B', day: 1, date: '2026-05-05', name: id, original: id, named: false },
    ...{ kind: 'video', state: 'read', fault: null, filmstrip: true, rate: rate(25), frames: 50, seconds: 2 },
    ...{ start: '14:22:05:00', end: '14:22:07:00', recordedAt: '2026-05-05T14:22:05', codec: 'H.264' },
    ...{ picture: null, width: 1280, height: 720, channels: 2, bytes: 1000, files: 1, problems: [] },
    ...{ pair: { state: 'none', checks: [], file: null, made: false, changes: [] }, playable: true },
    ...{ facts: {}, keywords: [], notes: [], before: `${id}.MP4`, beside: 0, proxy: null },
    ...{ now: { root: 'Shelf', folder: 'In/B001', file: `${id}.MP4` }, verdict: 'connects', away: [] },
    ...more,
  }) as ReportClip;
const card = (id: string, more: Partial<ReportCard> = {}): ReportCard => ({
  ...{ id, copied: true, gaps: [] },
  ...more,
});
const report = (kind: ReportKind, of: Partial<Reported>) =>
  reportOf(
    kind,
    kind,
    { job: 'Slack Water (SLW)', of: 'the whole job', made: '2026-05-06 20:00 UTC' },
    { clips: [], cards: [], answers: [], ...of },
  );
const pair = (state: ReportClip['pair']['state'], more: Partial<ReportClip['pair']> = {}) => ({
  ...{ state, checks: [], file: null, made: false, changes: [] },
  ...more,
});

test('a camera report has a part for each day and in it for each card; what nobody states has no column', () => {
  const { sections, summary } = report('camera', {
    clips: [
      clip('T2', { day: 2, date: '2026-05-06', card: 'B002' }),
      clip('T1', { facts: { scene: '12', take: '3', circled: 'yes', iso: '800', tStop: 'T2.8' } }),
      clip('A1', { card: 'A001', camera: 'A', facts: { maker: 'Tarn', model: 'Tarn T5' } }),
      clip('S1', { kind: 'sound' }),
    ],
  });
  expect(summary).toEqual(['3 clips, 0:06, 3.0 kB', '3 cards']);
  expect(sections.map((s) => s.heading)).toEqual([
    'Day 1, Tue 5 May',
    'B001',
    'A001',
    'Day 2, Wed 6 May',
    'B002',
  ]);
  const heads = (i: number) => sections[i]!.table!.columns.map((c) => c.head);
  expect(heads(1)).toEqual(['', 'Clip', 'Scene', 'Take', 'Start', 'Length', 'Rate', 'Picture', 'Exposure']);
  expect(heads(2)).toEqual(['', 'Clip', 'Start', 'Length', 'Rate', 'Picture']);
  expect(sections[1]!.table!.rows).toEqual([
    [
      { picture: 'T1' },
      'T1',
      '12',
      '3, circled',
      '14:22:05:00',
      '2.0 s',
      '25',
      '1280×720\nH.264',
      'T2.8 · ISO 800',
    ],
  ]);
  expect(sections[2]!.about).toBe('Camera A · Tarn T5 · 1 clip, 0:02, 1.0 kB');
});

test('notes say what people said, and what should be looked at', () => {
  const { sections } = report('camera', {
    clips: [
      clip('T1', {
        facts: { comment: 'wind' },
        keywords: ['gate', 'wheel'],
        notes: ['14:22:05:10 splash'],
        problems: [{ level: 'look', text: 'The clock looks wrong.' }],
      }),
    ],
  });
  expect(sections[1]!.table!.rows[0]!.at(-1)).toEqual({
    text: 'wind\ngate, wheel\n14:22:05:10 splash\nThe clock looks wrong.',
    mark: 'look',
  });
});

test('a sound report has recordings alone; a contact sheet has pictures alone', () => {
  const clips = [
    clip('T1', { facts: { scene: '12' }, keywords: ['wheel'] }),
    clip('S1', { kind: 'sound', facts: { trackNames: 'Boom, Miller', sampleRate: '48000 Hz' }, rate: null }),
  ];
  const sound = report('sound', { clips });
  expect(sound.summary).toEqual(['1 recording, 0:02, 1.0 kB']);
  expect(sound.sections[1]!.table!.rows).toEqual([
    ['S1', '14:22:05:00', '2.0 s', '48000 Hz', 'Boom, Miller'],
  ]);
  expect(report('sheet', { clips }).sections[1]!.tiles).toEqual([
    { picture: 'T1', name: 'T1', lines: ['14:22:05:00 · 2.0 s', 'scene 12 · wheel'] },
  ]);
  expect(report('sound', { clips: clips.slice(0, 1) })).toMatchObject({
    sections: [],
    none: expect.any(String),
  });
});

test('how pairs stand is counted, and said of each', () => {
  const differs = { what: 'frames', result: 'differs', original: '50', proxy: '49' } as const;
  const same = { what: 'frames', result: 'same', original: '50', proxy: '50' } as const;
  const { summary, sections } = report('proxies', {
    clips: [
      clip('T1', {
        pair: pair('proven', { checks: [same] }),
        proxy: { file: 'T1_px.mp4', recipe: 'Light', checkedAt: '2026-05-06T14:00:00.000Z' },
      }),
      clip('T2', { pair: pair('mismatched', { checks: [differs] }) }),
      clip('T3', { pair: pair('missing') }),
      clip('T4', { kind: 'still' }),
    ],
  });
  expect(summary).toEqual([
    { text: '1 clip: no proxy', mark: 'look' },
    { text: '1 clip: proven', mark: 'good' },
    { text: '1 clip: does not match', mark: 'stop' },
  ]);
  expect(sections[1]!.table!.rows.map((r) => r.slice(1))).toEqual([
    ['T1_px.mp4', 'Light', { text: 'proven', mark: 'good' }, 'same: frame count', '2026-05-06 14:00 UTC'],
    ['', '', { text: 'does not match', mark: 'stop' }, 'frame count: original 50, proxy 49', ''],
    ['', '', { text: 'no proxy', mark: 'look' }, '', ''],
  ]);
});

test('names before and after', () => {
  const { summary, sections } = report('names', {
    clips: [
      clip('T1', { now: { root: 'Shelf', folder: 'Day 1/B001', file: 'SLW_001.MP4' }, beside: 2 }),
      clip('T2'),
      clip('T3', { before: null }),
    ],
  });
  expect(summary[1]).toBe('1 clip was renamed.');
  expect(sections[1]!.table!.rows).toEqual([
    ['T1.MP4', 'SLW_001.MP4', 'Shelf: Day 1/B001', '2 files'],
    ['T2.MP4', 'not renamed', 'Shelf: In/B001', ''],
    ['T3.MP4', 'not renamed', 'Shelf: In/B001', ''],
  ]);
});

test('what is missing: each clip under what it lacks, cards without two copies, numbers that are missing', () => {
  const { sections, summary } = report('missing', {
    clips: [
      clip('T1'),
      clip('T2', { state: 'unreadable', fault: 'cut short', start: null, verdict: null }),
      clip('T3', { start: '00:00:00:00', verdict: 'fails' }),
      clip('T4', { pair: pair('missing') }),
      clip('T5', { pair: pair('lost') }),
      clip('T6', { away: ['T6.MP4: on North, which is not connected'], start: null }),
      clip('T7', { kind: 'still', start: null, verdict: null }),
      clip('T8', { start: '00;00;00;00' }),
    ],
    cards: [
      card('B001'),
      card('B002', { gaps: ['T0006 is missing after T0005'] }),
      card('A001', { copied: false }),
    ],
    answers: [
      { card: 'B001', verdict: 'no', may: false, because: 'One file has one copy.' },
      { card: 'B002', verdict: 'yes', may: true, because: '' },
      { card: 'B003', verdict: 'asOf', may: true, because: 'Proven as last seen.' },
    ] as WipeView[],
  });
  expect(summary[0]).toBe('Something is missing of 6 of 8 clips.');
  expect(sections.map((s) => [s.heading, s.table!.rows.map((r) => r.slice(-2))])).toEqual([
    ['Files that cannot be had now: 1 clip', [['T6', 'T6.MP4: on North, which is not connected']]],
    ['Not read: 1 clip', [['T2', 'cut short']]],
    ['An edit may not find the original: 1 clip', [['T3', 'will not connect']]],
    [
      'No timecode: 3 clips',
      [
        ['T3', 'begins at zero'],
        ['T6', 'none'],
        ['T8', 'begins at zero'],
      ],
    ],
    ['No proxy: 1 clip', [['T4', 'not made']]],
    ['Proxies that are not proven: 1 clip', [['T5', 'lost']]],
    [
      'Cards that are not proven to be wiped safely',
      [
        ['B001', { text: 'One file has one copy.', mark: 'stop' }],
        ['B003', { text: 'Proven as last seen.', mark: 'look' }],
        ['A001', { text: 'It was not copied here: no copy of it is known.', mark: 'stop' }],
      ],
    ],
    ['Gaps in clip numbers', [['B002', 'T0006 is missing after T0005']]],
  ]);
  const none = report('missing', { clips: [clip('T1')], cards: [card('B001')] });
  expect(none.sections).toEqual([]);
  expect(none.summary[0]).toEqual({ text: 'Nothing is missing of 1 clip.', mark: 'good' });
  // Where nothing was looked at, nothing is said to be well.
  const empty = report('missing', {});
  expect(empty.summary).toEqual([]);
  expect(empty.none).toBe('There are no clips: nothing was looked for.');
});

test('of cards to be wiped: the answer of each, copies that do not count, and cards of which nothing is known', () => {
  const copy = (more: object) => ({
    ...{
      rootName: 'North',
      folder: 'SLW/B001',
      disk: { name: 'disk one' },
      standIn: true,
      files: 4,
      proven: 4,
    },
    ...{
      withCard: false,
      sameDisk: true,
      present: true,
      seenAt: null,
      verifiedAt: '2026-05-06T14:00:00.000Z',
    },
    ...more,
  });
  const answer = {
    ...{ card: 'B001', verdict: 'no', may: false, files: 4, bytes: 4e9, because: 'One file has one copy.' },
    ...{ reasons: [{ text: 'One file has one copy.' }, { text: 'South is away.' }], notes: ['As of now.'] },
    copies: [
      copy({}),
      copy({ withCard: true }),
      copy({ sameDisk: false }),
      copy({ proven: 3 }),
      copy({ present: false }),
      copy({ files: 3, proven: 3 }),
    ],
  } as unknown as WipeView;
  const { summary, sections } = report('wipe', {
    answers: [answer],
    cards: [card('B001'), card('A001', { copied: false })],
  });
  expect(summary).toEqual([
    '1 card, of which 0 may be wiped',
    { text: 'Not copied here, so that nothing is known of the card itself: A001', mark: 'look' },
  ]);
  expect(sections[0]).toMatchObject({
    heading: 'B001: No',
    about: '4 files, 4.0 GB. One file has one copy.',
    more: ['South is away.', 'As of now.'],
  });
  expect(sections[0]!.table!.rows.map((r) => [r[2], r[4]])).toEqual([
    [{ text: '4 of 4 files', mark: 'good' }, 'connected'],
    [{ text: '4 of 4 files, on the card’s own drive: does not count', mark: 'stop' }, 'connected'],
    [{ text: '4 of 4 files, not the drive it was verified on', mark: 'stop' }, 'connected'],
    [{ text: '3 of 4 files', mark: 'stop' }, 'connected'],
    [{ text: '4 of 4 files, as last seen', mark: 'look' }, 'not connected'],
    [{ text: '3 of 3 files; the card has 4', mark: 'stop' }, 'connected'],
  ]);
});

test('the page runs nothing, whatever clips are called, and has the pictures in it', () => {
  const hostile = '"><script>alert(1)</script></style>';
  const r = report('camera', {
    clips: [clip('T1', { name: shownPath(hostile), notes: [hostile] }), clip('T2')],
  });
  const page = reportPage({ ...r, job: hostile }, new Map([['T1', 'AAAA']]));
  expect(page).not.toContain('<script');
  expect(page.match(/<\/style>/g)).toHaveLength(1);
  expect(page).toContain('src="data:image/jpeg;base64,AAAA"');
  expect(page).toContain('no picture');
});

test('lengths', () => {
  expect([0.04, 59.94, 59.96, 3600].map(lengthOf)).toEqual(['0.0 s', '59.9 s', '1:00', '1:00:00']);
});
