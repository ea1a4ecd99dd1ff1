import { afterAll, beforeAll, expect, test } from '@jest/globals';
import {
  existsSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { execFileSync } from 'node:child_process';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import { parse } from 'csv-parse/sync';
import { eq } from 'drizzle-orm';
import { type Form, NewPackage, type PackageAction, READY_FORMS, readOtio } from '../../../core/handover';
import { addWork, clipViews } from '../../cards';
import { files } from '../../cards/tables';
import { changeChoice } from '../../choose';
import { correctClips } from '../../facts';
import { beginJob } from '../../jobs';
import { addRoot, removeRoot } from '../../places';
import { roots } from '../../places/tables';
import { logView } from '../../overview/logbook';
import { removeJob } from '../../removal';
import { packageFiles, packages, sendings } from '../tables';
import { hashTree, makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../../testing/media';
import { mayMount, RealMounts } from '../../testing/realMounts';
import { takeInCard } from '../../testing/takeInCard';
import { actOnPackage, dropPackage, sendPackage } from './send';
import { makeForPackage, planView } from './plan';
import { packageNames, packageView } from './views';

// Packages of real files: what goes, what is there in the end, and what is sent the next time.

let s: TestShelf;
let drive: string;
let root: string;
const ids = new Map<string, string>();
const edit: Form = { ...READY_FORMS[0]!, lists: ['otio', 'marks'] };
const wanted = (of: Partial<NewPackage> = {}): NewPackage =>
  NewPackage.parse({
    set: { kind: 'card', card: 'B001' },
    form: edit,
    to: 'the editor',
    root,
    folder: 'SLW edit',
    ...of,
  });
const drain = async () => {
  await s.runtime.queue.drainKind('handover');
  await s.runtime.queue.drainKind('checkHandover');
};
const send = async (of: Partial<NewPackage> = {}) => {
  const { id } = await sendPackage(s.runtime, wanted(of));
  await drain();
  return packageView(s.runtime, id);
};
const act = async (id: string, action: PackageAction['action']) => {
  await actOnPackage(s.runtime, id, { action });
  await drain();
  return packageView(s.runtime, id);
};
const at = (...parts: string[]) => path.join(drive, 'SLW edit', ...parts);
/** What stands at a place, but for the hash lists. */
const standing = (folder: string) =>
  Object.keys(hashTree(folder))
    .filter((p) => !p.startsWith('ascmhl/'))
    .sort();
const contents = () => {
  const [, ...rows] = parse(readFileSync(at('Contents.csv')), { bom: true });
  return rows.map((r) => [r[0], r[5]]);
};
/** Other bytes in a camera's file, as they were when the card was looked at again. */
const changeFile = async (name: string, bytes: Buffer) => {
  const file = path.join(s.shelf, 'In', 'B001', 'CLIP', name);
  writeFileSync(file, bytes);
  utimesSync(file, 1_700_000_000, 1_700_000_000);
  await s.runtime.db
    .update(files)
    .set({ size: bytes.length, modified: 1_700_000_000_000 })
    .where(eq(files.path, `In/B001/CLIP/${name}`));
  s.runtime.events.changed('clips');
};

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const folder = path.join(s.shelf, 'In', 'B001');
  makeClip(path.join(folder, 'CLIP', 'T0001.MP4'), { start: '14:22:05:00', frames: 10 });
  makeClip(path.join(folder, 'SUB', 'T0001_px.MP4'), { start: '14:22:05:00', frames: 10, size: '320x180' });
  makeClip(path.join(folder, 'CLIP', 'T0002.MP4'), { start: '14:30:00:00', frames: 12 });
  put(path.join(folder, 'CLIP', 'T0002.cdl'), '<ColorDecisionList xmlns="urn:ASC:CDL:v1.01"/>');
  makeClip(path.join(folder, 'CLIP', 'T0003.MP4'), { start: '14:40:00:00', frames: 12 });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
  drive = path.join(s.dir, 'courier drive');
  mkdirSync(drive);
  ({ id: root } = await addRoot(s.runtime, { kind: 'handover', path: drive }));
});
afterAll(() => s.close());

test('the plan says what goes, and what goes in place of what is not there; nothing is written', async () => {
  const plan = await planView(s.runtime, wanted());
  expect(plan).toMatchObject({
    ...{ name: 'B001', clips: 3, files: 3, fault: null },
    counts: { fresh: 3, changed: 0, same: 0, left: 0 },
    media: [{ what: 'edit', files: 3 }],
    remarks: [
      { name: 'T0001', what: 'edit', why: 'the proxy is not proven to match its original' },
      { name: 'T0002', what: 'edit', why: 'no proxy, so that the original goes' },
      { name: 'T0003', what: 'edit', why: 'no proxy, so that the original goes' },
    ],
  });
  expect(standing(drive)).toEqual([]);
});

test('a package holds what its form says, byte for byte, with its lists and hashes; the timeline finds its files there', async () => {
  const before = hashTree(s.shelf);
  const view = await send();
  expect(view).toMatchObject({ ...{ state: 'done', fault: null, failed: 0 }, sendings: [{ number: 1 }] });
  const stands = hashTree(at());
  expect(standing(at())).toEqual([
    'B001.otio',
    'Contents.csv',
    'Edit/B001/T0001_px.MP4',
    'Edit/B001/T0002.MP4',
    'Edit/B001/T0003.MP4',
    'Ranges.csv',
  ]);
  expect(stands['Edit/B001/T0001_px.MP4']).toBe(before['In/B001/SUB/T0001_px.MP4']);
  expect(stands['Edit/B001/T0002.MP4']).toBe(before['In/B001/CLIP/T0002.MP4']);
  expect(contents()).toEqual([
    ['Edit/B001/T0001_px.MP4', 'new'],
    ['Edit/B001/T0002.MP4', 'new'],
    ['Edit/B001/T0003.MP4', 'new'],
  ]);
  const text = readFileSync(at('B001.otio'), 'utf8');
  const urls = [...text.matchAll(/"target_url": "([^"]*)"/g)].map((m) => decodeURIComponent(m[1]!));
  expect(urls.length).toBeGreaterThanOrEqual(3);
  for (const url of urls) expect(existsSync(at(url))).toBe(true);
  expect(readOtio(text).tracks[0]!.events.map((e) => e.file)).toEqual([
    'T0001_px.MP4',
    'T0002.MP4',
    'T0003.MP4',
  ]);
  expect(hashTree(s.shelf)).toEqual(before);
  // It is read again at its place, hash lists and all.
  const { check } = await act(view.id, 'check');
  expect(check).toMatchObject({ same: 6, changed: [], missing: [], added: [], witness: 'agrees', lists: [] });
  const said = (await logView(s.runtime)).entries.map((l) => l.text);
  expect(said.slice(0, 3)).toEqual([
    'Checked B001 in courier drive/SLW edit: 6 files as they were sent',
    expect.stringMatching(/^Handed over B001 to the editor: 6 files verified in courier drive\/SLW edit$/),
    expect.stringMatching(/^Started handing over B001 to the editor: 3 files, /),
  ]);
});

test('sent again, only what is new or has changed goes, and a list says what that is', async () => {
  const [{ id } = { id: '' }] = await packageNames(s.runtime);
  const plan = await planView(s.runtime, wanted());
  expect(plan.counts).toEqual({ fresh: 0, changed: 0, same: 3, left: 0 });
  expect(plan.files).toBe(0);
  await addWork(s.runtime, 'proxy', [ids.get('T0002')!]);
  await s.runtime.queue.drainKind('proxy');
  const third = readFileSync(path.join(s.shelf, 'In/B001/CLIP/T0003.MP4'));
  await changeFile('T0003.MP4', Buffer.concat([third, Buffer.alloc(100)]));
  expect((await planView(s.runtime, wanted())).counts).toEqual({ fresh: 1, changed: 1, same: 1, left: 1 });
  const view = await act(id, 'again');
  expect(view.sendings.map((x) => [x.number, x.state, x.counts.fresh])).toEqual([
    [2, 'done', 1],
    [1, 'done', 3],
  ]);
  expect(contents()).toEqual([
    ['Edit/B001/T0001_px.MP4', 'as before'],
    // It is still there, though the proxy takes its place.
    ['Edit/B001/T0002.MP4', 'no longer part of it'],
    ['Edit/B001/T0003.MP4', 'changed'],
    // Some volumes do not tell its name from that of the original.
    ['Edit/B001/2/T0002.mp4', 'new'],
  ]);
  const stands = hashTree(at());
  expect(stands['Edit/B001/T0003.MP4']).toBe(hashTree(s.shelf)['In/B001/CLIP/T0003.MP4']);
  const { check } = await act(id, 'check');
  expect(check).toMatchObject({ same: 7, changed: [], missing: [], added: [], witness: 'agrees' });
});

test('what the recipient removed is sent again; what they changed is left as it is, and said', async () => {
  const [{ id } = { id: '' }] = await packageNames(s.runtime);
  rmSync(at('Edit/B001/T0001_px.MP4'));
  writeFileSync(at('Edit/B001/T0003.MP4'), 'graded by somebody');
  expect((await planView(s.runtime, wanted())).counts).toMatchObject({ fresh: 2, same: 1 });
  const view = await act(id, 'again');
  expect(view).toMatchObject({ state: 'partly', failed: 1, fault: '1 file could not be copied.' });
  expect(view.list[0]).toMatchObject({
    ...{ place: 'Edit/B001/T0003.MP4', state: 'failed' },
    fault:
      'Edit/B001/T0003.MP4 was changed at its place since it was sent. It was left as it is: move it away, then try again.',
  });
  expect(readFileSync(at('Edit/B001/T0003.MP4'), 'utf8')).toBe('graded by somebody');
  expect(existsSync(at('Edit/B001/T0001_px.MP4'))).toBe(true);
  // Moved away, it comes at the next try.
  renameSync(at('Edit/B001/T0003.MP4'), path.join(drive, 'T0003 graded.MP4'));
  expect(await act(id, 'retry')).toMatchObject({ state: 'done', failed: 0 });
  expect((await act(id, 'check')).check).toMatchObject({ same: 7, changed: [], missing: [] });
});

test('a pipe in place of a list holds up nothing: it stays, and is said', async () => {
  const [{ id } = { id: '' }] = await packageNames(s.runtime);
  const list = at('Contents.csv');
  rmSync(list);
  execFileSync('mkfifo', [list]);
  const view = await act(id, 'again');
  expect(view).toMatchObject({ state: 'partly', failed: 1 });
  expect(view.list[0]).toMatchObject({ place: 'Contents.csv', state: 'failed' });
  expect(lstatSync(list).isFIFO()).toBe(true);
  rmSync(list);
  expect(await act(id, 'retry')).toMatchObject({ state: 'done', failed: 0 });
});

test('a byte that turns at its place is found, and so are files that went or came', async () => {
  const [{ id } = { id: '' }] = await packageNames(s.runtime);
  const file = at('Edit/B001/T0001_px.MP4');
  const bytes = readFileSync(file);
  bytes[100]! ^= 1;
  writeFileSync(file, bytes);
  rmSync(at('Ranges.csv'));
  put(at('Edit', 'notes.txt'), 'x');
  expect((await act(id, 'check')).check).toMatchObject({
    changed: ['Edit/B001/T0001_px.MP4'],
    missing: ['Ranges.csv'],
    added: ['Edit/notes.txt'],
  });
});

test('what a check finds wrong counts as verified no more, and goes again; what is not read again keeps the date of its hash', async () => {
  const { id } = await send({ folder: 'rot' });
  const file = path.join(drive, 'rot', 'Edit/B001/T0001_px.MP4');
  const { mtime, atime } = statSync(file);
  const bytes = readFileSync(file);
  bytes[100]! ^= 1;
  writeFileSync(file, bytes);
  // As a disk forgets: neither size nor time tell of it.
  utimesSync(file, atime, mtime);
  expect((await planView(s.runtime, wanted({ folder: 'rot' }))).counts).toMatchObject({ fresh: 0, same: 3 });
  const found = await act(id, 'check');
  expect(found).toMatchObject({ verified: 5, failed: 1, check: { changed: ['Edit/B001/T0001_px.MP4'] } });
  expect(found.list[0]).toMatchObject({
    ...{ place: 'Edit/B001/T0001_px.MP4', state: 'failed' },
    fault: 'It does not hold what was sent. Send what is new: it goes again.',
  });
  await s.runtime.db
    .update(sendings)
    .set({ endedAt: new Date('2026-01-02T03:04:05Z') })
    .where(eq(sendings.package, id));
  const again = await act(id, 'again');
  expect(again).toMatchObject({ state: 'done', failed: 0, check: null });
  expect(hashTree(path.join(drive, 'rot'))['Edit/B001/T0001_px.MP4']).toBe(
    hashTree(s.shelf)['In/B001/SUB/T0001_px.MP4'],
  );
  const lists = path.join(drive, 'rot', 'ascmhl');
  const [newest] = readdirSync(lists)
    .filter((n) => n.endsWith('.mhl'))
    .sort()
    .reverse();
  const list = readFileSync(path.join(lists, newest!), 'utf8');
  const dateOf = (name: string) =>
    new RegExp(`${name}</path>\\s*<\\w+ [^>]*hashdate="([^"]*)"`).exec(list)?.[1];
  expect(dateOf('T0003.MP4')).toMatch(/^2026-01-02T03:04:05/);
  expect(dateOf('T0001_px.MP4')).toMatch(/^2026-/);
  expect(dateOf('T0001_px.MP4')).not.toMatch(/^2026-01-02/);
  const said = (await logView(s.runtime)).entries.map((l) => l.text);
  expect(said[0]).toBe(
    'Handed over B001 to the editor: 2 files verified in courier drive/rot, 4 files sent before',
  );
  expect((await act(id, 'check')).check).toMatchObject({
    same: 6,
    changed: [],
    lists: [],
    witness: 'agrees',
  });
});

test('a drive that is full is said, and gone on with where it was', async () => {
  const full = put(
    path.join(s.dir, 'full.mjs'),
    "export const openTarget = () => Promise.reject(Object.assign(new Error('ENOSPC'), { code: 'ENOSPC' }));",
  );
  const { devices } = s.runtime;
  const { writerOf } = devices;
  devices.writerOf = () => pathToFileURL(full).href;
  try {
    const { id } = await sendPackage(s.runtime, wanted({ folder: 'full' }));
    await drain();
    expect(await packageView(s.runtime, id)).toMatchObject({
      ...{ state: 'paused', verified: 0, failed: 0 },
      fault: 'courier drive is full. Fix that, then go on.',
    });
    expect(standing(path.join(drive, 'full'))).toEqual([]);
    devices.writerOf = writerOf;
    expect(await act(id, 'resume')).toMatchObject({ state: 'done', failed: 0 });
  } finally {
    devices.writerOf = writerOf;
  }
});

test('originals go with what belongs to them, looks apart; one that is gone is said before, and the rest goes', async () => {
  const finishing: Form = { ...READY_FORMS[1]!, folders: 'day', lists: ['edl'] };
  const of = { form: finishing, folder: 'SLW finishing', to: '' };
  const there = path.join(s.shelf, 'In/B001/CLIP/T0003.MP4');
  renameSync(there, `${there}.away`);
  const plan = await planView(s.runtime, wanted(of));
  expect(plan.remarks).toMatchObject([{ name: 'T0003', what: 'original' }]);
  expect(plan.remarks[0]!.why).toContain('T0003.MP4');
  const view = await send(of);
  expect(view).toMatchObject({ state: 'done', to: '' });
  expect(standing(path.join(drive, 'SLW finishing'))).toEqual([
    'B001.edl',
    'Contents.csv',
    'Looks/Day 01/B001/T0002.cdl',
    'Originals/Day 01/B001/T0001.MP4',
    'Originals/Day 01/B001/T0001_px.MP4',
    'Originals/Day 01/B001/T0002.MP4',
    'Originals/Day 01/B001/T0002.cdl',
  ]);
  renameSync(`${there}.away`, there);
});

test('proxies go by names of one’s own, footage in their place by its name; the timeline and the contents tell them', async () => {
  await correctClips(s.runtime, { clips: [ids.get('T0002')!], set: [{ field: 'scene', value: '12/A' }] });
  const form: Form = { ...edit, folders: 'one', names: 'pattern', namePattern: '{job}_{scene}_{name}' };
  const folder = 'SLW names';
  expect(await send({ form, folder })).toMatchObject({ state: 'done', failed: 0 });
  const there = path.join(drive, folder);
  const files = ['SLW_no scene_T0001_px.MP4', 'SLW_12_A_T0002.mp4', 'T0003.MP4'];
  expect(readdirSync(path.join(there, 'Edit')).sort()).toEqual([...files].sort());
  expect(
    readOtio(readFileSync(path.join(there, 'B001.otio'), 'utf8')).tracks[0]!.events.map((e) => e.file),
  ).toEqual(files);
  const [, ...rows] = parse(readFileSync(path.join(there, 'Contents.csv')), { bom: true });
  expect(rows.map((r) => [r[0], r[2]])).toEqual([
    ['Edit/SLW_no scene_T0001_px.MP4', 'T0001.MP4'],
    ['Edit/SLW_12_A_T0002.mp4', 'T0002.MP4'],
    ['Edit/T0003.MP4', 'T0003.MP4'],
  ]);
});

test('used frames go with handles, made first: cut where frames stand by themselves, else encoded, which is said; the timeline is of them', async () => {
  const clip = ids.get('T0003')!;
  await changeChoice(s.runtime, {
    do: 'addRange',
    ...{ clip, kind: 'select', from: 4, to: 7, name: '', note: '' },
  });
  const effects: Form = { ...READY_FORMS.find((f) => f.name === 'Effects')!, handles: 2 };
  const of = wanted({ form: effects, folder: 'SLW effects' });
  const plan = await planView(s.runtime, of);
  expect(plan).toMatchObject({ toMake: 1, making: 0 });
  expect(plan.remarks.filter((r) => r.name === 'T0003').map((r) => r.why)).toEqual([
    'frames 3 to 9 are still to be made',
    'transcoded by “ProRes LT in MOV, same size”: its codec is inter-frame, so that it cannot be cut as it is',
  ]);
  expect(plan.remarks.filter((r) => r.name === 'T0001').map((r) => r.why)).toEqual([
    'nothing of it is selected',
  ]);
  expect(await makeForPackage(s.runtime, of)).toEqual({ added: 1 });
  expect(await planView(s.runtime, of)).toMatchObject({ toMake: 1, making: 1 });
  await s.runtime.queue.drainKind('proxy');
  expect(await planView(s.runtime, of)).toMatchObject({
    toMake: 0,
    making: 0,
    media: [{ what: 'look' }, { what: 'used', files: 1 }],
  });
  const view = await send({ form: effects, folder: 'SLW effects' });
  expect(view).toMatchObject({ state: 'done' });
  const folder = path.join(drive, 'SLW effects');
  const [made] = standing(folder).filter((p) => p.startsWith('Used frames/'));
  const { streams, format } = JSON.parse(
    execFileSync(
      'ffprobe',
      [
        '-v',
        'error',
        '-of',
        'json',
        '-count_frames',
        '-show_streams',
        '-show_format',
        path.join(folder, made!),
      ],
      { encoding: 'utf8' },
    ),
  ) as {
    streams: { codec_name: string; nb_read_frames: string; tags?: Record<string, string> }[];
    format: { tags?: Record<string, string> };
  };
  const picture = streams.find((x) => x.codec_name === 'prores')!;
  expect(picture.nb_read_frames).toBe('7');
  const timecodes = [...streams, format].flatMap((x) => x.tags?.timecode ?? []);
  expect(timecodes).toContain('14:40:00:02');
  // The three frames that are used, in the file that has them.
  const edit3 = JSON.parse(readFileSync(path.join(folder, 'B001.otio'), 'utf8')) as {
    tracks: { children: { children: { source_range: object; media_references: object }[] }[] };
  };
  const [event, ...more] = edit3.tracks.children[0]!.children;
  expect(more).toEqual([]);
  const start = (14 * 60 + 40) * 60 * 25;
  expect(event).toMatchObject({
    source_range: { start_time: { value: start + 4 }, duration: { value: 3 } },
    media_references: {
      DEFAULT_MEDIA: {
        target_url: made!.split('/').map(encodeURIComponent).join('/'),
        available_range: { start_time: { value: start + 2 }, duration: { value: 7 } },
      },
    },
  });
});

test('a file that goes between the plan and the copy fails alone, and comes at the next try', async () => {
  const { id } = await sendPackage(s.runtime, wanted({ folder: 'late' }));
  const there = path.join(s.shelf, 'In/B001/SUB/T0001_px.MP4');
  renameSync(there, `${there}.away`);
  await drain();
  const view = await packageView(s.runtime, id);
  expect(view).toMatchObject({ state: 'partly', failed: 1 });
  expect(view.list[0]!.fault).toContain('T0001_px.MP4');
  expect(standing(path.join(drive, 'late'))).not.toContain('Edit/B001/T0001_px.MP4');
  renameSync(`${there}.away`, there);
  expect(await act(id, 'retry')).toMatchObject({ state: 'done', failed: 0 });
  expect(standing(path.join(drive, 'late'))).toContain('Edit/B001/T0001_px.MP4');
});

test('a place is refused with what to do: taken by others, of no such root, without files', async () => {
  put(path.join(drive, 'theirs', 'x.txt'), 'x');
  const fault = async (of: Partial<NewPackage>) => (await planView(s.runtime, wanted(of))).fault;
  expect(await fault({ folder: 'theirs' })).toBe(
    'There is something in theirs already, which was not sent from here. Name another folder.',
  );
  await expect(sendPackage(s.runtime, wanted({ folder: 'theirs' }))).rejects.toThrow('Name another folder');
  expect(await fault({ root: 'shelf' })).toBe('“Shelf” is no place for packages. Add its folder as one.');
  expect(await fault({ folder: '../out' })).toContain('leads out of');
  expect(await fault({ form: { ...edit, media: ['sound'], lists: [] } })).toContain('nothing to hand over');
  expect(await fault({ folder: 'SLW edit/Edit' })).toBe(
    'A package stands in SLW edit: no other may be in it or around it. Name another folder.',
  );
  expect(standing(path.join(drive, 'theirs'))).toEqual(['x.txt']);
});

test('a drive that is away is waited for; it goes on by itself where it stopped', async () => {
  const { id } = await sendPackage(s.runtime, wanted({ folder: 'waits' }));
  renameSync(drive, `${drive} away`);
  await drain();
  const view = await packageView(s.runtime, id);
  expect(view).toMatchObject({ state: 'waiting' });
  expect(view.fault).toBe('courier drive is not connected. Connect its drive: it goes on by itself.');
  expect(existsSync(drive)).toBe(false);
  // Another one is not begun beside it.
  renameSync(`${drive} away`, drive);
  await expect(sendPackage(s.runtime, wanted({ folder: 'waits' }))).rejects.toThrow('is being handed over');
  await expect(dropPackage(s.runtime, id)).rejects.toThrow('is being handed over');
  expect(await act(id, 'resume')).toMatchObject({ state: 'done', fault: null });
});

test('what was written where another volume came meanwhile does not count: it is copied again to its own drive', async () => {
  const { devices, db } = s.runtime;
  const { volumeIdOf, writerOf } = devices;
  let volume = 'its own';
  devices.volumeIdOf = () => volume;
  // It is pulled out when the first files are given to be written.
  devices.writerOf = () => {
    volume = 'another';
    return null;
  };
  await db.update(roots).set({ volume: 'its own', within: '' }).where(eq(roots.id, root));
  try {
    const { id } = await sendPackage(s.runtime, wanted({ folder: 'pulled' }));
    await drain();
    const view = await packageView(s.runtime, id);
    expect(view).toMatchObject({ state: 'waiting', verified: 0, failed: 0 });
    expect(view.fault).toContain('courier drive was pulled out. Connect it again');
    await expect(actOnPackage(s.runtime, id, { action: 'check' })).rejects.toThrow('is being handed over');
    rmSync(path.join(drive, 'pulled'), { recursive: true });
    volume = 'its own';
    devices.writerOf = () => null;
    expect(await act(id, 'resume')).toMatchObject({ state: 'done', failed: 0 });
    expect((await act(id, 'check')).check).toMatchObject({ same: 6, missing: [] });
    // Pulled out while its check waits, and while it is read: neither counts.
    for (const answers of [[], ['its own']]) {
      await actOnPackage(s.runtime, id, { action: 'check' });
      devices.volumeIdOf = () => answers.pop() ?? 'another';
      rmSync(path.join(drive, 'pulled'), { recursive: true });
      mkdirSync(path.join(drive, 'pulled'));
      await s.runtime.queue.drainKind('checkHandover');
      devices.volumeIdOf = () => volume;
      expect(await packageView(s.runtime, id)).toMatchObject({
        ...{ verified: 6, failed: 0, check: { same: 6, missing: [] } },
      });
    }
    volume = 'another';
    await expect(actOnPackage(s.runtime, id, { action: 'check' })).rejects.toThrow('is not connected');
  } finally {
    Object.assign(devices, { volumeIdOf, writerOf });
    await db.update(roots).set({ volume: null, within: null }).where(eq(roots.id, root));
  }
});

(mayMount ? test : test.skip)(
  'a drive that is pulled and leaves its folder: nothing goes to the folder, and the rest to the drive once it is back',
  async () => {
    const drives = new RealMounts();
    const { devices } = s.runtime;
    const { writerOf } = devices;
    try {
      const image = drives.image('courier', 'COURIER', 64);
      const east = drives.mount('courier', image);
      const to = (await addRoot(s.runtime, { kind: 'handover', path: east })).id;
      // It is pulled out when the first files are given to be written.
      devices.writerOf = () => {
        if (readdirSync(east).length > 0) drives.unmount(east, true);
        return null;
      };
      const { id } = await sendPackage(s.runtime, wanted({ root: to, folder: 'SLW' }));
      await drain();
      const pulled = await packageView(s.runtime, id);
      expect(pulled).toMatchObject({
        ...{ state: 'waiting', verified: 0, failed: 0 },
        fault: expect.stringContaining('courier was pulled out. Connect it again'),
      });
      expect(readdirSync(east)).toEqual([]);
      expect(await act(id, 'resume')).toMatchObject({ state: 'waiting', verified: 0 });
      expect(readdirSync(east)).toEqual([]);
      devices.writerOf = writerOf;
      drives.mount('courier', image);
      expect(await act(id, 'resume')).toMatchObject({ state: 'done', failed: 0 });
      expect(standing(path.join(east, 'SLW')).length).toBeGreaterThan(5);
      drives.unmount(east);
      await expect(actOnPackage(s.runtime, id, { action: 'check' })).rejects.toThrow('is not connected');
    } finally {
      devices.writerOf = writerOf;
      drives.end();
    }
  },
);

test('cancelled, what was verified stays, and the next time the rest goes; forgotten, its files stay', async () => {
  const { id } = await sendPackage(s.runtime, wanted({ folder: 'halted' }));
  await actOnPackage(s.runtime, id, { action: 'pause' });
  expect(await packageView(s.runtime, id)).toMatchObject({ state: 'paused' });
  await actOnPackage(s.runtime, id, { action: 'cancel' });
  expect(await packageView(s.runtime, id)).toMatchObject({ state: 'cancelled', verified: 0 });
  const view = await act(id, 'again');
  expect(view).toMatchObject({ state: 'done' });
  expect(view.sendings[0]!.counts).toMatchObject({ fresh: 3 });
  const before = standing(path.join(drive, 'halted'));
  await dropPackage(s.runtime, id);
  expect((await packageNames(s.runtime)).map((p) => p.id)).not.toContain(id);
  expect(standing(path.join(drive, 'halted'))).toEqual(before);
});

test('a place that packages stand at is not taken off the list; a job that is removed forgets its packages, and their files stay', async () => {
  await expect(removeRoot(s.runtime, root)).rejects.toThrow('is in use: a package for');
  await s.runtime.queue.drain();
  const before = standing(drive);
  await removeJob(s.runtime);
  expect(await s.runtime.db.$count(packages)).toBe(0);
  expect(await s.runtime.db.$count(packageFiles)).toBe(0);
  await removeRoot(s.runtime, root);
  expect(standing(drive)).toEqual(before);
});
