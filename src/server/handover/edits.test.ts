import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import path from 'node:path';
import { Change, FindQuery, RangesQuery } from '../../core/choose';
import {
  type Edit,
  type EditEvent,
  EventsQuery,
  NewEdit,
  NewPackage,
  readEdl,
  RehearsalQuery,
  READY_FORMS,
  readOtio,
  writeOtio,
} from '../../core/handover';
import { rate } from '../../core/platform/timecode/rate';
import { parseTimecode } from '../../core/platform/timecode/timecode';
import { addWork, clipViews } from '../cards';
import { changeChoice, chooseView, findClips, findRanges } from '../choose';
import { correctClips } from '../facts';
import { beginJob } from '../jobs';
import { FFMPEG, FFPROBE } from '../platform/media/tools';
import { adopt, provePairs } from '../proxies';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { dropEdit, editEvents, editNames, editView, makeAlike, setEditRate, takeEdit } from './edits';
import { correctedEdit, stringOutEdit } from './export';
import { listsOf } from './packages/lists';
import { mendClips, rehearsalView } from './rehearsal';

// Timelines that come back, laid against real clips; what they use of them; and string-outs as timelines.

let s: TestShelf;
const ids = new Map<string, string>();
const named = (names: readonly string[]) => names.map((n) => ids.get(n)!);
const take = (file: string, text: string) => takeEdit(s.runtime, { file, text, rate: null });
const lines = (id: string, query: object = {}) => editEvents(s.runtime, id, EventsQuery.parse(query));
const found = async (query: string) =>
  (await findClips(s.runtime, FindQuery.parse({ query }))).tiles.map((t) => t.id).sort();

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const card = path.join(s.shelf, 'In', 'B001');
  makeClip(path.join(card, 'T0001.MP4'), { start: '14:22:05:00', frames: 50 });
  makeClip(path.join(card, 'T0002.MP4'), { start: '00:00:00:00', frames: 50 });
  makeClip(path.join(card, 'T0003.MP4'), { start: '15:00:00:00', frames: 50, rate: '50' });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
  // The proxy of T0002 has no timecode; the original is known to begin at 14:30, and was given that back.
  await addWork(s.runtime, 'proxy', named(['T0002']));
  await s.runtime.queue.drainKind('proxy');
});
afterAll(() => s.close());

/** A frame of a file as 64 by 36 grey pixels, by FFmpeg. */
const pictureAt = (file: string, frame: number): Buffer =>
  execFileSync(FFMPEG(), [
    ...['-v', 'error', '-i', file, '-vf', `select=eq(n\\,${frame}),scale=64:36,format=gray`],
    ...['-frames:v', '1', '-f', 'rawvideo', '-'],
  ]);
const distance = (a: Buffer, b: Buffer): number => a.reduce((n, v, i) => n + Math.abs(v - b[i]!), 0);
/** The one video of that folder, or of the folder in it. */
const fileIn = (folder: string, within = ''): string => {
  const all = readdirSync(folder, { recursive: true, encoding: 'utf8' });
  const found = all.filter((f) => f.startsWith(within) && f.toLowerCase().endsWith('t0002.mp4'));
  expect(found).toHaveLength(1);
  return path.join(folder, found[0]!);
};

const LIST = [
  'TITLE: TIDE MILL',
  'FCM: NON-DROP FRAME',
  '001  AX       V     C        14:22:05:10 14:22:06:10 01:00:00:00 01:00:01:00',
  '* FROM CLIP NAME: T0001.MP4',
  '002  AX       V     C        14:22:06:00 14:22:06:20 01:00:01:00 01:00:01:20',
  '* FROM CLIP NAME: T0001.MP4',
  '003  AX       V     C        14:22:06:20 14:22:07:20 01:00:01:20 01:00:02:20',
  '* FROM CLIP NAME: T0001.MP4',
  '004  AX       V     C        15:00:00:05 15:00:00:15 01:00:02:20 01:00:03:05',
  '* FROM CLIP NAME: T0003.MP4',
  '005  AX       V     C        20:00:00:00 20:00:01:00 01:00:03:05 01:00:04:05',
  '* FROM CLIP NAME: STRANGER',
].join('\n');
let list = '';

test('a list is read at the rate of the job, laid against its clips, and said to be guessed', async () => {
  list = (await take('tide v1.edl', LIST)).id;
  expect(await editView(s.runtime, list)).toMatchObject({
    ...{ name: 'TIDE MILL', file: 'tide v1.edl', format: 'edl', rate: rate(25), guessed: true },
    ...{ start: '01:00:00:00', frames: 105, faults: [], cutFrom: [], corrected: 0 },
    counts: { found: 2, rate: 1, outside: 1, several: 0, missing: 1 },
    tracks: [
      {
        ...{ name: 'V', kind: 'video' },
        events: [
          [0, 25, 0],
          [25, 45, 0],
          [45, 70, 2],
          [70, 80, 1],
          [80, 105, 5],
        ],
      },
    ],
  });
  expect((await lines(list, { verdict: 'outside' })).lines).toMatchObject([
    {
      ...{ track: 0, place: 2, label: '003', at: '01:00:01:20', called: 'T0001.MP4', behind: 20 },
      why: 'it uses 20 frames after its last: 14:22:06:20 to 14:22:07:20',
      of: { name: 'T0001.MP4', card: 'B001' },
    },
  ]);
  expect((await lines(list, { offset: 4, limit: 1 })).lines).toMatchObject([
    { verdict: 'missing', of: null },
  ]);
  // The same file once more is the same edit.
  expect(await take('tide v1.edl', LIST)).toEqual({ id: list });
  expect((await editNames(s.runtime)).map((e) => e.name)).toEqual(['TIDE MILL']);
});

test('which frames of which clips it uses is kept, seen as ranges, and searched', async () => {
  const { parts } = await findRanges(s.runtime, RangesQuery.parse({ kinds: ['used'] }));
  // The first two touch: they are one. 50 frames a second: two for each of the edit's.
  expect(parts.map((p) => [p.name, p.called, p.from, p.to])).toEqual([
    ['T0001', 'TIDE MILL', 10, 45],
    ['T0003', 'TIDE MILL', 10, 30],
  ]);
  expect(await found('with used')).toEqual(named(['T0001', 'T0003']).sort());
  expect(await found('used is "tide mill"')).toHaveLength(2);
  expect(await found('none(with used)')).toEqual(named(['T0002']));
});

test('cut from a file that begins elsewhere: that is said, and the timeline is corrected to the originals', async () => {
  await correctClips(s.runtime, { clips: named(['T0002']), set: [{ field: 'start', value: '14:30:00:00' }] });
  await mendClips(s.runtime, { mend: 'rewrap', clips: null });
  await s.runtime.queue.drainKind('proxy');
  const text = LIST.split('\n')
    .slice(0, 4)
    .join('\n')
    .replaceAll('14:22:0', '00:00:0')
    .replaceAll('00:00:05', '00:00:00')
    .replaceAll('00:00:06', '00:00:01')
    .replace('T0001.MP4', 'T0002.mp4');
  const { id } = await take('tide v2.edl', text);
  const view = await editView(s.runtime, id);
  expect(view).toMatchObject({ counts: { found: 1 }, corrected: 1 });
  expect(view.cutFrom).toEqual([
    {
      ...{ file: 'T0002.mp4', events: 1 },
      words: 'cut from the proxy T0002.mp4, which starts at 00:00:00:00, the rewrap at 14:30:00:00',
    },
  ]);
  expect((await lines(id, { shifted: true })).found).toBe(1);
  const edl = await correctedEdit(s.runtime, id, 'edl');
  expect(edl.name).toBe('tide v2 corrected.edl');
  expect(readEdl(edl.text, rate(25)).tracks[0]!.events[0]).toMatchObject({
    ...{ file: 'T0002.mp4', from: 0, to: 25 },
    source: { from: 14 * 90_000 + 30 * 1500 + 10, frames: 25 },
  });
  const otio = await correctedEdit(s.runtime, id, 'otio');
  expect(readOtio(otio.text).tracks[0]!.events[0]!.source.from).toBe(14 * 90_000 + 30 * 1500 + 10);
  expect(otio.text).toMatch(/"target_url": "file:\/\/\/[^"]*With%20timecode\/[^"]*T0002\.mp4"/);
  // At its first and last frame the picture is the same in what it was cut from and where it is corrected to.
  const place = readOtio(otio.text).tracks[0]!.events[0]!.source.from - (14 * 90_000 + 30 * 1500);
  const [rewrap, original] = [path.join(s.proxies, 'With timecode'), path.join(s.shelf, 'In/B001/T0002.MP4')];
  for (const n of [place, place + 24]) expect(pictureAt(fileIn(rewrap), n)).toEqual(pictureAt(original, n));
  expect(pictureAt(original, place)).not.toEqual(pictureAt(original, place + 1));
  // A proxy is coded anew: of all frames around it, it is nearest to its own.
  const proxy = fileIn(s.proxies, 'not-named');
  for (const n of [place, place + 24]) {
    const far = [-2, -1, 0, 1, 2].map((by) => distance(pictureAt(proxy, n), pictureAt(original, n + by)));
    expect(far.indexOf(Math.min(...far))).toBe(2);
  }
  // What was corrected connects as it is.
  const again = await take('tide v3.otio', otio.text);
  expect(await editView(s.runtime, again.id)).toMatchObject({
    counts: { found: 1 },
    cutFrom: [],
    corrected: 0,
  });
});

test('of several tracks each is a list of its own; a package holds one for each of pictures', async () => {
  const event = (label: string, file: string, from: number): EditEvent => ({
    ...{ label, from: 0, to: 10, name: null, file, reel: null, speed: 1, transition: null },
    source: { from, frames: 10, rate: rate(25), drop: false },
  });
  const at = (time: string) => parseTimecode(time, rate(25), {})!.frame;
  const high = at('14:22:05:05');
  const edit: Edit = {
    ...{ name: 'Tide layers', rate: rate(25), start: 90_000, drop: false, faults: [] },
    tracks: [
      { name: 'low', kind: 'video', events: [event('1', 'T0002.mp4', 3)] },
      { name: 'sound', kind: 'audio', events: [event('1', 'T0002.mp4', 4)] },
      { name: 'high', kind: 'video', events: [event('1', 'T0001.MP4', high)] },
    ],
  };
  const { id } = await take(
    'layers.otio',
    writeOtio(edit, () => null),
  );
  const counted = at('14:30:00:00');
  for (const [track, words, kind, from] of [
    [0, 'V1', 'video', counted + 3],
    [1, 'A1', 'audio', counted + 4],
    [2, 'V2', 'video', high],
  ] as const) {
    const { name, text } = await correctedEdit(s.runtime, id, 'edl', { track });
    expect(name).toBe(`layers corrected ${words}.edl`);
    expect(text).toContain(`TITLE: Tide layers ${words}\r\n`);
    const [only, ...more] = readEdl(text, rate(25)).tracks;
    expect([only!.kind, only!.events.map((e) => e.source.from), more]).toEqual([kind, [from], []]);
  }
  await expect(correctedEdit(s.runtime, id, 'edl', { track: 3 })).rejects.toThrow(
    'Tide layers has no track 4.',
  );
  const form = { ...READY_FORMS[0]!, lists: ['edl' as const], media: [] };
  const set = { kind: 'edit' as const, edit: id };
  const wanted = NewPackage.parse({ ...{ set, form, to: '', root: 'handover' }, folder: 'Layers' });
  const { lists } = await listsOf(s.runtime, { name: 'Layers', wanted, ids: [], files: [], sending: 1 });
  const written = lists.filter((l) => l.list === 'edl').map((l) => [l.name, String(l.body)] as const);
  expect(written.map(([name]) => name)).toEqual(['Layers.edl', 'Layers V2.edl']);
  expect(written.map(([, text]) => readEdl(text, rate(25)).tracks[0]!.events[0]!.source.from)).toEqual([
    counted + 3,
    high,
  ]);
});

test('a string-out goes out as a timeline of the files the edit is given, and comes back found whole', async () => {
  await changeChoice(
    s.runtime,
    Change.parse({
      ...{ do: 'addStringOut', name: 'Wheel: best / 1' },
      items: [
        { clip: ids.get('T0001'), from: 10, to: 20 },
        { clip: ids.get('T0003'), from: 0, to: 50 },
        { clip: ids.get('T0001'), from: 0, to: 50 },
      ],
    }),
  );
  await changeChoice(
    s.runtime,
    Change.parse({
      do: 'addRange',
      clip: ids.get('T0001'),
      from: 5,
      to: 9,
      kind: 'note',
      name: 'the wheel',
      note: 'turns',
    }),
  );
  await changeChoice(s.runtime, Change.parse({ do: 'addKeyword', clips: [ids.get('T0001')], name: 'water' }));
  const [out] = (await chooseView(s.runtime)).stringOuts;
  for (const format of ['otio', 'edl'] as const) {
    const file = await stringOutEdit(s.runtime, out!.id, format);
    const { id } = await take(file.name, file.text);
    const view = await editView(s.runtime, id);
    expect(view).toMatchObject({ name: 'Wheel: best / 1', start: '01:00:00:00', faults: [], frames: 85 });
    expect((await lines(id)).lines.map((l) => [l.clip, l.used])).toEqual([
      [ids.get('T0001'), { from: 10, to: 20 }],
      [ids.get('T0003'), { from: 0, to: 50 }],
      [ids.get('T0001'), { from: 0, to: 50 }],
    ]);
    await dropEdit(s.runtime, id);
  }
  const { text } = await stringOutEdit(s.runtime, out!.id, 'otio');
  expect(text).toContain('"name": "the wheel"');
  expect(text).toContain('"name": "water"');
});

test('another rate is said for a list; a timeline that says its own keeps it', async () => {
  await setEditRate(s.runtime, list, rate(24));
  expect(await editView(s.runtime, list)).toMatchObject({ rate: rate(24), guessed: false });
  const uses = async () =>
    (await findRanges(s.runtime, RangesQuery.parse({ kinds: ['used'] }))).parts
      .filter((p) => p.called === 'TIDE MILL' && p.name === 'T0001')
      .map((p) => [p.from, p.to]);
  // At 24 its numbers are of other frames, and some of none.
  expect(await uses()).not.toContainEqual([10, 45]);
  await setEditRate(s.runtime, list, rate(25));
  expect(await editView(s.runtime, list)).toMatchObject({ rate: rate(25), guessed: false });
  expect(await uses()).toContainEqual([10, 45]);
  const otio = (await editNames(s.runtime)).find((e) => e.format === 'otio')!;
  await expect(setEditRate(s.runtime, otio.id, rate(24))).rejects.toThrow(
    'says itself at which rate it counts',
  );
});

test('a rate that timecode does not count at is none', () => {
  for (const r of [rate(1, 100), rate(2000)])
    expect(NewEdit.safeParse({ file: 'x.edl', text: LIST, rate: r }).success).toBe(false);
  expect(NewEdit.safeParse({ file: 'x.edl', text: LIST, rate: rate(30000, 1001) }).success).toBe(true);
});

test.each([
  ['nothing.edl', 'TITLE: NOTHING\n', 'no line of it is an event'],
  ['cut.otio', '{"OTIO_SCHEMA": "Timeline.1", "tracks": {"chil', 'it is no JSON'],
  [
    'empty.otio',
    '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[]}]}}',
    'a timeline without any clip',
  ],
])('%s cannot be read: said with its name, and nothing is kept', async (file, text, why) => {
  const before = await editNames(s.runtime);
  await expect(take(file, text)).rejects.toThrow(why);
  await expect(take(file, text)).rejects.toThrow(file);
  expect(await editNames(s.runtime)).toEqual(before);
});

test('for an edit that stays as it is, files are made that count as it does; the finishing side holds what it held', async () => {
  // A proxy of another program, which began its timecode at nothing.
  makeClip(path.join(s.proxies, 'T0003_low.mp4'), { start: '00:00:00:00', frames: 50, rate: '50' });
  const pair = { path: 'T0003_low.mp4', clip: ids.get('T0003')! };
  await adopt(s.runtime, { root: 'proxies', pairs: [pair] });
  await provePairs(s.runtime, [pair.clip]);
  const lineOf = async () =>
    (await rehearsalView(s.runtime, RehearsalQuery.parse({}))).lines.find((l) => l.clip === pair.clip);
  const before = await lineOf();
  const cut =
    '001  AX V C 00:00:00:05 00:00:00:15 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: T0003_low.mp4\n';
  const { id } = await take('low.edl', `TITLE: LOW\n${cut}`);
  const view = () => editView(s.runtime, id);
  expect(await view()).toMatchObject({ corrected: 1, alike: { files: 1, missing: 1 } });
  expect(await makeAlike(s.runtime, id)).toEqual({ begun: 1 });
  await s.runtime.queue.drainKind('proxy');
  expect((await view()).alike).toEqual({ files: 1, missing: 0 });
  await expect(makeAlike(s.runtime, id)).rejects.toThrow('Every file that this edit counts in is there.');
  const folder = path.join(s.proxies, 'Starts at 00.00.00.00');
  const [name] = readdirSync(folder, { recursive: true, encoding: 'utf8' }).filter((f) => f.endsWith('mp4'));
  expect(path.basename(name!)).toBe('T0003_low.mp4');
  const made = path.join(folder, name!);
  const original = path.join(s.shelf, 'In/B001/T0003.MP4');
  const told = execFileSync(FFPROBE(), ['-v', 'error', '-show_entries', 'stream_tags=timecode', made]);
  expect(String(told)).toContain('timecode=00:00:00:00');
  const frames = (file: string) =>
    String(execFileSync(FFMPEG(), ['-v', 'error', '-i', file, '-map', '0:v', '-f', 'framemd5', '-']))
      .split('\n')
      .flatMap((l) => (/^\d/.test(l) ? l.split(',').at(-1)! : []));
  expect(frames(made)).toEqual(frames(original));
  // Proven again it is what it was made to be; it stands for nobody, and the edit counts as it did.
  await provePairs(s.runtime, [pair.clip]);
  expect(await view()).toMatchObject({ corrected: 1, alike: { files: 1, missing: 0 } });
  expect(await lineOf()).toEqual(before);
});

test('proxies that lack frames: by their timecode they are a part of the original, or it is not known which part', async () => {
  // The first second less five frames is gone; of the other one the timecode is, too.
  makeClip(path.join(s.proxies, 'late.mp4'), { start: '14:22:05:20', frames: 30 });
  makeClip(path.join(s.proxies, 'lost.mp4'), { start: '00:00:00:00', frames: 30 });
  const clip = ids.get('T0001')!;
  const pairs = ['late.mp4', 'lost.mp4'].map((name) => ({ path: name, clip }));
  await adopt(s.runtime, { root: 'proxies', pairs });
  await provePairs(s.runtime, [clip]);
  const cut = [
    '001  AX V C 14:22:06:00 14:22:06:10 01:00:00:00 01:00:00:10\n* FROM CLIP NAME: late.mp4',
    '002  AX V C 00:00:00:05 00:00:00:15 01:00:00:10 01:00:00:20\n* FROM CLIP NAME: lost.mp4',
  ];
  const { id } = await take('parts.edl', `TITLE: PARTS\n${cut.join('\n')}\n`);
  expect((await lines(id)).lines).toMatchObject([
    { verdict: 'found', clip, used: { from: 25, to: 35 }, shifted: null },
    { verdict: 'unsure', clip, used: null, why: expect.stringContaining('cannot be told') },
  ]);
  expect(await editView(s.runtime, id)).toMatchObject({
    ...{ corrected: 1, cutFrom: [], alike: { files: 0 } },
    counts: { found: 1, unsure: 1, outside: 0, missing: 0 },
  });
  const list = readEdl((await correctedEdit(s.runtime, id, 'edl')).text, rate(25));
  expect(list.tracks[0]!.events).toMatchObject([
    { name: 'T0001', source: { from: parseTimecode('14:22:06:00', rate(25))!.frame, frames: 10 } },
    { name: 'lost.mp4', source: { from: 5, frames: 10 } },
  ]);
});

test('what an edit uses goes with it', async () => {
  for (const { id } of await editNames(s.runtime)) await dropEdit(s.runtime, id);
  expect(await found('with used')).toEqual([]);
  await expect(editView(s.runtime, list)).rejects.toThrow('This edit was removed meanwhile.');
});
