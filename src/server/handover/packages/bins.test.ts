import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { type Form, NewPackage, readEdl, READY_FORMS, readOtio } from '../../../core/handover';
import { RangesQuery } from '../../../core/choose';
import { rate } from '../../../core/platform/timecode/rate';
import { parseTimecode } from '../../../core/platform/timecode/timecode';
import { clipViews } from '../../cards';
import { changeChoice, chooseView, findRanges } from '../../choose';
import { look } from '../../intake/look';
import { takeIn } from '../../intake/takeIn';
import { beginJob } from '../../jobs';
import { addRoot } from '../../places';
import { FFMPEG } from '../../platform/media/tools';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../../testing/media';
import { dropEdit, editView, takeEdit } from '../edits';
import { stringOutEdit } from '../export';
import { clipsToConnect } from '../sides';
import { madeOf } from './made';
import { sendPackage } from './send';

// Bins, what rolled together, and string-outs in a package, as the OpenTimelineIO in it says.

let s: TestShelf;
let drive: string;
let root: string;
const ids = new Map<string, string>();

interface Out {
  OTIO_SCHEMA: string;
  name: string;
  children: Out[];
  tracks?: Out;
  kind?: string;
  global_start_time?: { value: number };
  source_range?: { start_time: { value: number }; duration: { value: number; rate: number } };
  media_references?: Record<string, { target_url: string }>;
  markers?: { name: string }[];
}

/** Four seconds of sound from a time of day on. */
function recording(time: string): Buffer {
  const since = time.split(':').reduce((n, part) => n * 60 + Number(part), 0);
  const wave = execFileSync(FFMPEG(), [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'sine=duration=4:sample_rate=48000', '-write_bext', '1'],
    ...['-metadata', `time_reference=${since * 48_000}`, '-metadata', 'origination_date=2026-05-06'],
    ...['-metadata', `origination_time=${time}`, '-f', 'wav', 'pipe:1'],
  ]);
  // A pipe does not tell how long it will be.
  wave.writeUInt32LE(wave.length - 8, 4);
  const data = wave.indexOf('data');
  wave.writeUInt32LE(wave.length - data - 8, data + 4);
  return wave;
}

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const clip = (card: string, name: string, start: string) =>
    makeClip(path.join(s.shelf, 'In', card, 'CLIP', name), {
      ...{ start, frames: 50 },
      created: `2026-05-06T${start.slice(0, 8)}`,
    });
  clip('B001', 'T0001.MP4', '14:22:05:00');
  clip('B001', 'T0002.MP4', '15:00:00:00');
  clip('C001', 'U0001.MP4', '14:22:06:00');
  put(path.join(s.shelf, 'In', 'S001', 'SLW-001.WAV'), recording('14:22:04'));
  // An iXML chunk says that its timecode counts thirty.
  const ixml = '<BWFXML><SPEED><TIMECODE_RATE>30/1</TIMECODE_RATE></SPEED></BWFXML> ';
  const head = Buffer.alloc(8);
  head.write('iXML');
  head.writeUInt32LE(ixml.length, 4);
  const thirty = Buffer.concat([recording('18:00:00'), head, Buffer.from(ixml)]);
  thirty.writeUInt32LE(thirty.length - 8, 4);
  put(path.join(s.shelf, 'In', 'S001', 'SLW-002.WAV'), thirty);
  const found = await look(s.runtime, 'shelf', 'In');
  await takeIn(s.runtime, {
    ...{ root: 'shelf', path: 'In' },
    cards: found.cards.map(({ folder }) => {
      const cardId = folder.split('/').at(-1)!;
      return { folder, camera: cardId[0]!, cardId, day: 1, date: null };
    }),
  });
  await s.runtime.queue.drainKind('read');
  await s.runtime.queue.drainKind('rest');
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
  const change = (asked: Parameters<typeof changeChoice>[1]) => changeChoice(s.runtime, asked);
  await change({ do: 'addBin', name: 'Day one', parent: null, clips: [] });
  const [bin] = (await chooseView(s.runtime)).bins;
  await change({ do: 'addBin', name: 'Wheel', parent: bin!.id, clips: [ids.get('T0002')!] });
  await change({ do: 'addKeyword', clips: [ids.get('T0002')!], range: null, name: 'wheel' });
  const part = (name: string, from: number, to: number) => ({ clip: ids.get(name)!, from, to });
  await change({ do: 'addStringOut', name: 'Turns', items: [part('T0002', 10, 20), part('T0001', 0, 5)] });
  await change({ do: 'addStringOut', name: 'Of both', items: [part('U0001', 0, 5)] });
  drive = path.join(s.dir, 'courier drive');
  mkdirSync(drive);
  ({ id: root } = await addRoot(s.runtime, { kind: 'handover', path: drive }));
});
afterAll(() => s.close());

async function sent(set: NewPackage['set'], folder: string): Promise<{ text: string; root: Out } | null> {
  await sendPackage(
    s.runtime,
    NewPackage.parse({ set, form: { ...READY_FORMS[0]!, lists: ['bins'] }, to: '', root, folder }),
  );
  await s.runtime.queue.drainKind('handover');
  const file = path.join(drive, folder, `${set.kind === 'card' ? set.card : 'Slack Water'} bins.otio`);
  if (!existsSync(file)) return null;
  const text = readFileSync(file, 'utf8');
  const read = JSON.parse(text) as Out;
  for (const [, url] of text.matchAll(/"target_url": "([^"]*)"/g))
    expect(existsSync(path.join(path.dirname(file), decodeURIComponent(url!)))).toBe(true);
  return { text, root: read };
}
const named = (of: Out): [string, string][] => of.children.map((c) => [c.OTIO_SCHEMA, c.name]);
const inside = (of: Out, name: string): Out => of.children.find((c) => c.name === name)!;

test('of a whole job: bins inside bins, clips of none beside them, groups and string-outs as timelines', async () => {
  const { root, text } = (await sent({ kind: 'job' }, 'All'))!;
  expect([root.OTIO_SCHEMA, root.name]).toEqual(['SerializableCollection.1', 'Slack Water']);
  expect(named(root)).toEqual([
    ['SerializableCollection.1', 'Day one'],
    ['SerializableCollection.1', 'Rolled together'],
    ['SerializableCollection.1', 'String-outs'],
    ['Clip.2', 'SLW-001'],
    ['Clip.2', 'T0001'],
    ['Clip.2', 'U0001'],
    ['Clip.2', 'SLW-002'],
  ]);
  const [clip] = inside(inside(root, 'Day one'), 'Wheel').children;
  expect(clip).toMatchObject({ OTIO_SCHEMA: 'Clip.2', name: 'T0002', markers: [{ name: 'wheel' }] });
  expect(clip!.media_references!.DEFAULT_MEDIA!.target_url).toBe('Edit/B001/T0002.MP4');
  // 15:00:00:00 is frame 1 350 000 at 25 a second: worked by hand from SMPTE ST 12-1 (from memory).
  expect(clip!.source_range).toMatchObject({ start_time: { value: 1_350_000 }, duration: { value: 50 } });
  const [group] = inside(root, 'Rolled together').children;
  // The sound began first, at 14:22:04:00, frame 1 293 100; the pictures a second and two after it.
  expect(group!.global_start_time!.value).toBe(1_293_100);
  expect(
    group!.tracks!.children.map((t) => [
      t.kind,
      ...t.children.map((c) => [c.OTIO_SCHEMA, c.source_range!.duration.value]),
    ]),
  ).toEqual([
    ['Audio', ['Clip.2', 100]],
    ['Video', ['Gap.1', 25], ['Clip.2', 50]],
    ['Video', ['Gap.1', 50], ['Clip.2', 50]],
  ]);
  expect(named(inside(root, 'String-outs')).sort()).toEqual([
    ['Timeline.1', 'Of both'],
    ['Timeline.1', 'Turns'],
  ]);
  // Read again as a timeline it is the first there is.
  const edit = readOtio(text);
  expect(edit.start).toBe(parseTimecode('14:22:04:00', rate(25))!.frame);
  expect(edit.tracks.map((t) => t.events.map((e) => [e.from, e.to]))).toEqual([
    [[0, 100]],
    [[25, 75]],
    [[50, 100]],
  ]);
});

test('marks of sound count 25 a second, whatever its timecode counts', async () => {
  await changeChoice(s.runtime, {
    ...{
      do: 'addRange',
      clip: ids.get('SLW-002')!,
      kind: 'select',
      from: 25,
      to: 50,
      name: 'gate',
      note: '',
    },
  });
  const { root } = (await sent({ kind: 'job' }, 'Thirty'))!;
  const sound = inside(root, 'SLW-002');
  expect(sound.source_range!.start_time).toMatchObject({ value: 64_800 * 30, rate: 30 });
  // A second after its beginning, for a second.
  expect(sound.markers).toMatchObject([
    {
      name: 'gate',
      marked_range: { start_time: { value: 64_801 * 25, rate: 25 }, duration: { value: 25 } },
    },
  ]);
});

test('a string-out with sound in it: pictures and sound on tracks of their own, and each where it is heard', async () => {
  const part = (name: string, from: number, to: number) => ({ clip: ids.get(name)!, from, to });
  // Of the recording from one second to three, in twenty-fifths.
  const items = [part('T0002', 10, 20), part('SLW-002', 25, 75), part('T0001', 0, 5)];
  await changeChoice(s.runtime, { do: 'addStringOut', name: 'Heard', items });
  const list = (await chooseView(s.runtime)).stringOuts.find((l) => l.name === 'Heard')!;
  expect([list.items, list.seconds]).toEqual([3, 65 / 25]);
  const otio = JSON.parse((await stringOutEdit(s.runtime, list.id, 'otio')).text) as Out;
  expect(
    otio.tracks!.children.map((t) => [
      t.kind,
      ...t.children.map((c) => [
        c.name,
        c.source_range!.start_time.value,
        c.source_range!.duration.value,
        c.source_range!.duration.rate,
      ]),
    ]),
  ).toEqual([
    ['Video', ['T0002', 1_350_010, 10, 25], ['', 0, 50, 25], ['T0001', 1_293_125, 5, 25]],
    ['Audio', ['', 0, 10, 25], ['SLW-002', 64_801 * 30, 60, 30]],
  ]);
  const text = (await stringOutEdit(s.runtime, list.id, 'edl')).text;
  expect(text.split('\r\n').filter((l) => /^\d/.test(l))).toEqual([
    '001  B001     V     C        15:00:00:10 15:00:00:20 01:00:00:00 01:00:00:10',
    '002  S001     A     C        18:00:01:00 18:00:03:00 01:00:00:10 01:00:02:10',
    '003  B001     V     C        14:22:05:00 14:22:05:05 01:00:02:10 01:00:02:15',
  ]);
  const again = readEdl(text, rate(25));
  expect(again.faults).toEqual([]);
  expect(again.tracks.map((t) => [t.kind, t.events.map((e) => [e.name, e.from, e.to])])).toEqual([
    [
      'video',
      [
        ['T0002', 0, 10],
        ['T0001', 60, 65],
      ],
    ],
    ['audio', [['SLW-002', 10, 60]]],
  ]);
  // Come back, what is used of the recording is what was laid, as its ranges count.
  for (const [file, back] of Object.entries({ 'heard.otio': JSON.stringify(otio), 'heard.edl': text })) {
    const { id } = await takeEdit(s.runtime, { file, text: back, rate: null });
    await editView(s.runtime, id);
    const { parts } = await findRanges(s.runtime, RangesQuery.parse({ kinds: ['used'] }));
    expect([file, ...parts.map((p) => [p.name, p.from, p.to]).sort()]).toEqual([
      file,
      ['SLW-002', 25, 75],
      ['T0001', 0, 5],
      ['T0002', 10, 20],
    ]);
    await dropEdit(s.runtime, id);
  }
  await changeChoice(s.runtime, { do: 'removeStringOut', list: list.id });
});

test('nothing is to be made of a recording of sound, whatever its timecode counts', async () => {
  const form = { ...READY_FORMS[0]!, media: ['view', 'used'] as Form['media'] };
  const placed = (await clipsToConnect(s.runtime)).clips;
  const sounds = ['SLW-001', 'SLW-002'].map((name) => ids.get(name)!);
  expect(placed.filter((c) => sounds.includes(c.clip) && c.original.frames !== null)).toHaveLength(2);
  const of = await madeOf(
    s.runtime,
    { name: 'x', ids: [...ids.values()], used: new Map(sounds.map((id) => [id, [{ from: 0, to: 5 }]])) },
    form,
    placed,
  );
  for (const id of sounds) expect(of(id)).toEqual({ files: [], making: [], images: [], notes: [] });
  expect(of(ids.get('T0001')!).making.map((m) => m.recipe.name)).toEqual([form.viewRecipe]);
});

test('of a card: no group of which one clip alone is in it, no string-out with parts of others', async () => {
  const { root } = (await sent({ kind: 'card', card: 'B001' }, 'B'))!;
  expect(named(root).map(([, name]) => name)).toEqual(['Day one', 'String-outs', 'T0001']);
  expect(named(inside(root, 'String-outs'))).toEqual([['Timeline.1', 'Turns']]);
});

test('where there are neither bins nor timelines of a set, there is no such list', async () => {
  const { stringOuts } = await chooseView(s.runtime);
  const both = stringOuts.find((l) => l.name === 'Of both')!;
  await changeChoice(s.runtime, { do: 'removeStringOut', list: both.id });
  expect(await sent({ kind: 'card', card: 'C001' }, 'C')).toBeNull();
});
