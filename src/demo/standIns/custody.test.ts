import { alone, closeGate } from '../../server/platform/work/context';
import { afterAll, afterEach, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import {
  appendFileSync,
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { c4FromSha512 } from '../../core/hashLists/c4';
import { checkAgain } from '../../server/custody/checks';
import { receipt, wipeView } from '../../server/custody/wipe';
import { namingRequest } from '../../core/naming/shapes';
import { clips, files } from '../../server/cards/tables';
import { physicalCards, safeCopies } from '../../server/custody/tables';
import { roots } from '../../server/places/tables';
import { applyNaming } from '../../server/naming';
import { planNaming } from '../../server/naming/naming';
import { provePairs } from '../../server/proxies/provePairs';
import { put } from '../../server/testing/media';
import { clipFile } from '../../server/cards/clipFiles';
import { correctClips } from '../../server/facts/correct';
import { saveSettings } from '../../server/jobs/job';
import { look } from '../../server/intake/look';
import { actOnOffload } from '../../server/offload/act';
import { beginOffload } from '../../server/offload/begin';
import { addRoot } from '../../server/places/roots';
import { forgetCard, takeIn } from '../../server/intake/takeIn';
import { clipViews } from '../../server/cards/clipViews';
import { type CopyingShelf, copyingShelf, footage, SLOW, until } from './copyingShelf';
import { actOnStandIn } from './standIns';

// The answer to "may this card be wiped", on real files: what could have made it a wrong yes.

let r: CopyingShelf;
const runtime = () => r.shelf.runtime;
const copyOn = async (id: string, drive: string) =>
  (await wipeView(runtime(), id)).copies.find((c) => c.rootName === drive)!;
const inCopy = (drive: string, id: string, ...p: string[]) => r.drive(drive, 'SLW/Day 1', id, ...p);
const reasons = async (id: string) => (await wipeView(runtime(), id)).reasons.map((x) => x.text).join(' ');

beforeAll(async () => {
  r = await copyingShelf();
});
afterEach(() => r.calm());
afterAll(() => r.shelf.close());

describe('a card is what it is, not what it is called', () => {
  test('an id that was freed and given to another card with the same file names: the first one’s copies are not the second’s', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000 });
    const first = await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    await forgetCard(runtime(), id);
    // The answer about the first one remains, under the card itself.
    expect(await wipeView(runtime(), first.physical)).toMatchObject({
      verdict: 'yes',
      card: id,
      labelled: false,
    });
    await expect(wipeView(runtime(), id)).rejects.toThrow(`There is no card ${id}`);
    // Another card, same names, same sizes.
    for (const n of [1, 2]) put(r.reader(id, `CLIP/T000${n}.MP4`), footage(`another ${n}`, 5000));
    const second = await r.copy(id, { safe: [r.roots.North!] });
    expect(second.physical).not.toBe(first.physical);
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because: '2 files of 2 are in one verified copy only. Make another on a different disk.',
    });
    expect(await wipeView(runtime(), first.physical)).toMatchObject({ verdict: 'yes' });
  });

  test('an id that was corrected takes its proof along; the freed id is another card’s', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    const { physical } = await r.copy(id);
    const ids = (await clipViews(runtime(), id)).map((c) => c.id);
    await correctClips(runtime(), {
      clips: ids,
      set: [],
      card: { id: 'C777', camera: 'C', day: 1, date: null },
    });
    expect(await wipeView(runtime(), 'C777')).toMatchObject({ verdict: 'yes', physical });
    put(r.reader(id, 'CLIP/T0001.MP4'), footage('a third', 5000));
    await r.copy(id, { safe: [r.roots.South!] });
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
    expect((await wipeView(runtime(), 'C777')).verdict).toBe('yes');
  });

  test('clips that come to a card later: it is known, says what is new, may not be wiped, and is completed', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000, 'INDEX.XML': 20 });
    const { physical } = await r.copy(id);
    put(r.reader(id, 'CLIP/T0003.MP4'), footage('new', 6000));
    put(r.reader(id, 'INDEX.XML'), 'written anew by the camera');
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because: expect.stringMatching(/^2 files on the card are new or changed since it was copied/),
    });
    expect((await look(runtime(), r.roots['Reader 1']!, '')).cards[0]).toMatchObject({
      known: { labels: [id], newFiles: 2 },
    });
    const second = await r.copy(id);
    expect(second).toMatchObject({ physical, files: 2, state: 'done' });
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes', files: 4 });
    expect((await clipViews(runtime(), id)).map((c) => c.original)).toEqual(['T0001', 'T0002', 'T0003']);
  });

  test('what cannot be looked at on the card now is not called new, and the card may not be wiped', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    const { physical } = await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    const deep =
      'chdir $ARGV[0]; for (1..40) { mkdir "d" x 200; chdir "d" x 200 or die } open(F, ">T0002.MP4")';
    execFileSync('perl', ['-e', deep, r.reader(id, 'CLIP')]);
    const seen = await wipeView(runtime(), id);
    expect(seen).toMatchObject({
      verdict: 'no',
      because: expect.stringMatching(
        /cannot be looked at now \(its path is longer than the system can hold\)/,
      ),
    });
    expect(seen.reasons[0]!.files[0]).toMatch(/^B\d+\/CLIP\/d/);
    execFileSync('rm', ['-rf', r.reader(id, 'CLIP', 'd'.repeat(200))]);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    // The same of its folder, in a reader that answers with a fault.
    const mine = eq(physicalCards.id, physical);
    const [{ folder } = { folder: '' }] = await runtime().db.select().from(physicalCards).where(mine);
    const faulty = async (at: string) => {
      await runtime().db.update(physicalCards).set({ folder: at }).where(mine);
      return wipeView(runtime(), id);
    };
    expect(await faulty('x'.repeat(300))).toMatchObject({
      verdict: 'no',
      because: expect.stringMatching(/^x+ cannot be looked at now \(/),
    });
    expect((await faulty(folder)).verdict).toBe('yes');
    // And of the reader itself.
    const reader = eq(roots.id, r.roots['Reader 1']!);
    const [{ path: place } = { path: '' }] = await runtime().db.select().from(roots).where(reader);
    await runtime()
      .db.update(roots)
      .set({ path: `/${'y'.repeat(300)}` })
      .where(reader);
    const dead = await wipeView(runtime(), id);
    await runtime().db.update(roots).set({ path: place }).where(reader);
    expect(dead).toMatchObject({
      verdict: 'no',
      because: expect.stringMatching(/cannot be looked at now \(/),
    });
    // Another card that is known is in its place: what cannot be looked at on that one says nothing of this one.
    const other = r.card({ 'CLIP/T0001.MP4': 4000 });
    await r.copy(other);
    execFileSync('perl', ['-e', deep, r.reader(other, 'CLIP')]);
    await faulty(other);
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes' });
    expect((await wipeView(runtime(), other)).verdict).toBe('no');
    execFileSync('rm', ['-rf', r.reader(other, 'CLIP', 'd'.repeat(200))]);
    await faulty(folder);
  });

  test('what computers keep on a card for themselves is no news of it; footage, also a hidden one, is', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, '.DS_Store': 600, '.Index-V1/1': 20 });
    await r.copy(id);
    const ofSystem = [
      '.DS_Store',
      '.Index-V1/1',
      '.fseventsd/2',
      'System Volume Information/a.dat',
      'CLIP/._T0001.MP4',
    ];
    for (const f of ofSystem) put(r.reader(id, f), Buffer.from([0, 5, 22, 7, ...Buffer.from(f)]));
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes', files: 3 });
    expect((await wipeView(runtime(), id)).notes).toContain(
      '5 files that computers keep on it for themselves are new or changed since it was copied, the first .DS_Store: they do not count.',
    );
    const known = async () => (await look(runtime(), r.roots['Reader 1']!, '')).cards[0]!.known;
    expect(await known()).toMatchObject({ labels: [id], newFiles: 0, gone: 0 });
    // What only calls itself so is footage, and so is what lies in a hidden folder, or a folder further down.
    const footages = ['CLIP/._T0002.MP4', '.Index-V1/T0003.MP4', '.hidden/take.xyz', '.Trashes/take.xyz'];
    for (const f of footages) put(r.reader(id, f), footage(f, 3000));
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because: expect.stringMatching(/^4 files on the card are new or changed since it was copied/),
    });
    expect(await known()).toMatchObject({ newFiles: 4, gone: 0 });
    await r.copy(id);
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes' });
    rmSync(r.reader(id, '.Index-V1'), { recursive: true });
    rmSync(r.reader(id, 'CLIP/._T0002.MP4'));
    expect(await known()).toMatchObject({ newFiles: 0, gone: 1 });
  });

  test('a recording written anew between the places its fingerprint looks at is not the one that was copied', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 900_000, 'CLIP/T0002.MP4': 5000 });
    await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    const file = r.reader(id, 'CLIP/T0001.MP4');
    const bytes = readFileSync(file);
    bytes[200_000]! ^= 1;
    writeFileSync(file, bytes);
    utimesSync(file, Date.now() / 1000 + 60, Date.now() / 1000 + 60);
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      reasons: [{ files: ['CLIP/T0001.MP4'], way: { do: 'copy' } }],
    });
    expect((await look(runtime(), r.roots['Reader 1']!, '')).cards[0]!.known).toBeNull();
  });

  test('a card on which most was deleted and more was shot is the card, wherever it is: what is new is not taken for another card’s', async () => {
    const id = r.card({
      'CLIP/T0001.MP4': 5000,
      'CLIP/T0002.MP4': 5000,
      'CLIP/T0003.MP4': 5000,
      'CLIP/T0004.MP4': 5000,
    });
    await r.copy(id);
    for (const n of [1, 2, 3]) rmSync(r.reader(id, `CLIP/T000${n}.MP4`));
    for (const n of [5, 6, 7]) put(r.reader(id, `CLIP/T000${n}.MP4`), footage(`new ${n}`, 5000));
    const isNew = {
      verdict: 'no',
      because: expect.stringMatching(/^3 files on the card are new or changed since it was copied/),
    };
    expect(await wipeView(runtime(), id)).toMatchObject(isNew);
    // Its last recording goes, too: nothing of it is left to know it by, and the answer says so.
    const last = path.join(r.shelf.dir, 'last.MP4');
    renameSync(r.reader(id, 'CLIP/T0004.MP4'), last);
    const unknown = {
      verdict: 'no',
      because: expect.stringContaining('has not been copied: another card, or this one refilled'),
    };
    expect(await wipeView(runtime(), id)).toMatchObject(unknown);
    // Its volume is, where it can be told: emptied by hand and filled again it is the same card.
    const known = { ...runtime().devices };
    Object.assign(runtime().devices, {
      volumeIdOf: (at: string) => (at.startsWith(r.reader()) ? 'volume 1234-ABCD' : known.volumeIdOf(at)),
    });
    const physical = eq(physicalCards.id, (await wipeView(runtime(), id)).physical!);
    await runtime().db.update(physicalCards).set({ volume: 'volume 1234-ABCD' }).where(physical);
    expect(await wipeView(runtime(), id)).toMatchObject(isNew);
    // A folder of a disk is on the same volume whatever is in it.
    await runtime().db.update(physicalCards).set({ wholeVolume: false }).where(physical);
    expect(await wipeView(runtime(), id)).toMatchObject(unknown);
    await runtime().db.update(physicalCards).set({ wholeVolume: true, volume: null }).where(physical);
    Object.assign(runtime().devices, { volumeIdOf: known.volumeIdOf });
    // In another reader, with the others back.
    for (const n of [1, 2, 3])
      put(r.reader(id, `CLIP/T000${n}.MP4`), readFileSync(inCopy('North', id, `CLIP/T000${n}.MP4`)));
    for (const n of [1, 2, 3])
      utimesSync(
        r.reader(id, `CLIP/T000${n}.MP4`),
        new Date(),
        statSync(inCopy('North', id, `CLIP/T000${n}.MP4`)).mtime,
      );
    renameSync(last, r.reader(id, 'CLIP/T0004.MP4'));
    const second = path.join(r.standIns, 'readers/Reader 2', id);
    renameSync(r.reader(id), second);
    expect(await wipeView(runtime(), id)).toMatchObject(isNew);
    for (const n of [5, 6, 7]) rmSync(path.join(second, `CLIP/T000${n}.MP4`));
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'yes',
      notes: [expect.stringContaining('stand-in')],
    });
    // Read in another time zone it is the card as well, and what is new on it is new.
    for (const n of [1, 2, 3, 4])
      utimesSync(
        path.join(second, `CLIP/T000${n}.MP4`),
        new Date(),
        new Date(statSync(path.join(second, `CLIP/T000${n}.MP4`)).mtimeMs + 2 * 3_600_000),
      );
    renameSync(second, r.reader(id));
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'yes',
      notes: [expect.stringContaining('stand-in')],
    });
    put(r.reader(id, 'CLIP/T0005.MP4'), footage('new 5', 5000));
    expect((await wipeView(runtime(), id)).because).toMatch(/^1 file on the card is new/);
    rmSync(r.reader(id), { recursive: true });
    expect((await wipeView(runtime(), id)).notes.join(' ')).toContain('The card is not in a reader now');
    // Another card at the same place: unknown until it is copied, and then answered for by its own page.
    put(r.reader(id, 'CLIP/T0009.MP4'), footage('another', 5000));
    expect(await wipeView(runtime(), id)).toMatchObject(unknown);
    await r.copy('B777', { folder: id, safe: [r.roots.North!] });
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'yes',
      notes: [
        expect.stringMatching(
          /^B777 is in its place now, which this answer does not cover: it is about what was on it on \d/,
        ),
        expect.anything(),
      ],
    });
    expect((await wipeView(runtime(), 'B777')).verdict).toBe('no');
  });

  test('a file that has gone from the card, and is in no copy, is still asked for', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000, 'CLIP/T0003.MP4': 5000 });
    await r.copy(id, { wholeCard: false, clips: ['CLIP/T0001.MP4', 'CLIP/T0002.MP4'] });
    rmSync(r.reader(id, 'CLIP/T0003.MP4'));
    put(r.reader(id, 'NOTES.TXT'), 'x');
    await r.copy(id);
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      reasons: [{ files: ['CLIP/T0003.MP4'] }],
    });
  });
});

describe('the whole card is all that was offered', () => {
  test('raw video of an unlisted extension at the top, camera-made proxies in a folder: both are copied, and asked for', async () => {
    const id = r.card({
      'A001.RVX': 40_000,
      'A002.RVX': 40_000,
      'PROXY/A001.MP4': 3000,
      'PROXY/A002.MP4': 3000,
    });
    const [looked] = (await look(runtime(), r.roots['Reader 1']!, '')).cards;
    expect(looked!.folder).toBe(id);
    expect(looked!.doubts).toEqual([
      '2 clips are in PROXY/, a folder for proxies: no originals of theirs are here',
    ]);
    expect(looked!.all).toMatchObject({ files: 4, folder: id, wholeVolume: true, outside: [] });
    const done = await r.copy(id, { folder: looked!.folder });
    expect(done).toMatchObject({ files: 4, verified: 4 });
    expect(
      execFileSync('diff', ['-r', '--exclude=ascmhl', r.reader(id), inCopy('North', id)], {
        encoding: 'utf8',
      }),
    ).toBe('');
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes', files: 4, scope: 'volume' });
  });

  test('clips beside DCIM with stills are one card; a part of it that is copied does not answer for the rest', async () => {
    const id = r.card({
      'CLIPS/T0001.MP4': 3000,
      'DCIM/100SKERR/DSC_0001.JPG': 3000,
      'DCIM/100SKERR/DSC_0002.JPG': 3000,
    });
    const { cards } = await look(runtime(), r.roots['Reader 1']!, '');
    expect(cards.map((c) => [c.folder, c.all.files, c.all.folder])).toEqual([[id, 3, id]]);
    // Only the ticked clip: the stills are asked for.
    await r.copy(id, { wholeCard: false, clips: ['CLIPS/T0001.MP4'] });
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'no', files: 3 });
    await r.copy(id);
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes', files: 3 });
    await expect(r.copy(id, { cardId: `${id}-S`, shelf: true })).rejects.toThrow(
      `This card is in the job as ${id}.`,
    );
  });

  test('a folder deep in a card’s volume stands for all of the volume; a folder of a disk is said to be one, with what stands beside it', async () => {
    const id = r.card({ 'PRIVATE/CLIP/T0001.MP4': 3000, 'KEEP.TXT': 10 });
    const deep = (await look(runtime(), r.roots['Reader 1']!, `${id}/PRIVATE`)).cards[0]!;
    expect(deep.all).toMatchObject({ files: 2, folder: id, wholeVolume: true });
    await beginOffload(runtime(), r.wanted(id, { path: `${id}/PRIVATE`, folder: deep.folder }));
    await runtime().queue.idle('copy');
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'yes', files: 2 });
    expect(existsSync(inCopy('North', id, 'KEEP.TXT'))).toBe(true);

    const memory = mkdtempSync('/dev/shm/shelf-disk-');
    try {
      put(path.join(memory, 'DAY', 'CLIP', 'T0001.MP4'), footage('folder', 4000));
      put(path.join(memory, 'OTHER', 'T0009.MP4'), footage('beside', 4000));
      const root = (await addRoot(runtime(), { kind: 'source', path: memory })).id;
      const [looked] = (await look(runtime(), root, 'DAY')).cards;
      expect(looked!.all).toMatchObject({ files: 1, folder: 'DAY', wholeVolume: false });
      expect(looked!.all.outside).toContain(`${path.basename(memory)}/OTHER`);
      await beginOffload(
        runtime(),
        r.wanted('F001', { root, path: 'DAY', folder: looked!.folder, cardId: 'F001' }),
      );
      await runtime().queue.idle('copy');
      const answer = await wipeView(runtime(), 'F001');
      expect(answer).toMatchObject({ verdict: 'yes', scope: 'folder' });
      expect(answer.because).toContain('of this folder');
      expect(answer.notes.join(' ')).toContain('OTHER');
      expect((await receipt(runtime(), 'F001')).list).toHaveLength(1);
    } finally {
      rmSync(memory, { recursive: true });
    }
  });
});

describe('a copy counts while its files stand there', () => {
  test('emptied, removed, replaced, put back: each is seen when it is asked', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000 });
    await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    const kept = readFileSync(inCopy('South', id, 'CLIP/T0002.MP4'));
    const time = statSync(inCopy('South', id, 'CLIP/T0002.MP4')).mtimeMs / 1000;
    rmSync(inCopy('South', id, 'CLIP/T0002.MP4'));
    const gone = await wipeView(runtime(), id);
    expect(gone).toMatchObject({
      verdict: 'no',
      because: '1 file of 2 is in one verified copy only. Make another on a different disk.',
    });
    expect(gone.reasons[1]).toMatchObject({
      text: expect.stringMatching(/^1 file on South: .* no longer there/),
      files: ['CLIP/T0002.MP4'],
      way: { do: 'check', copy: gone.copies[1]!.id },
    });
    // Put back with its time, it is what was verified; with another time it may be anything.
    writeFileSync(inCopy('South', id, 'CLIP/T0002.MP4'), kept);
    utimesSync(inCopy('South', id, 'CLIP/T0002.MP4'), time + 60, time + 60);
    expect(await reasons(id)).toContain('changed or replaced since');
    utimesSync(inCopy('South', id, 'CLIP/T0002.MP4'), time, time);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    for (const drive of ['North', 'South']) {
      for (const n of [1, 2]) truncateSync(inCopy(drive, id, `CLIP/T000${n}.MP4`), 0);
    }
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because: '2 files of 2 are in no verified copy, the first CLIP/T0001.MP4.',
    });
    for (const drive of ['North', 'South']) rmSync(inCopy(drive, id), { recursive: true });
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
  });

  test('a copy’s folder that has become a link to the other copy is no copy', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    rmSync(inCopy('South', id), { recursive: true });
    symlinkSync(inCopy('North', id), inCopy('South', id));
    expect(await wipeView(runtime(), id)).toMatchObject({ verdict: 'no' });
    expect(await reasons(id)).toMatch(/1 file on South: .* no longer there/);
    rmSync(inCopy('South', id));
  });

  test('footage that is used in place is copied under its own id', async () => {
    const folder = path.join(r.shelf.dir, 'offloaded');
    put(path.join(folder, 'CLIP', 'T0001.MP4'), footage('in place', 5000));
    const root = (await addRoot(runtime(), { kind: 'source', path: folder })).id;
    const [looked] = (await look(runtime(), root, '')).cards;
    await takeIn(runtime(), {
      root,
      path: '',
      cards: [{ folder: looked!.folder, camera: 'B', cardId: 'P001', day: 1, date: null }],
    });
    expect(await wipeView(runtime(), 'P001')).toMatchObject({
      verdict: 'no',
      because: 'Nothing is known of what stood on this card.',
    });
    await r.copy('P001', { root, folder: looked!.folder });
    expect((await wipeView(runtime(), 'P001')).verdict).toBe('yes');
    expect(await clipViews(runtime(), 'P001')).toHaveLength(1);
  });

  test('a drive that is away: not provable now, as of then where the job allows it; another drive in its place is not it', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    renameSync(r.drive('South'), `${r.drive('South')}-away`);
    try {
      const away = await wipeView(runtime(), id);
      expect(away).toMatchObject({ verdict: 'notNow', may: false });
      expect(away.because).toMatch(/^Not provable now: South: .* is offline/);
      expect(away.copies[1]).toMatchObject({ present: false, seenAt: expect.any(String) });
      await expect(checkAgain(runtime(), away.copies[1]!.id)).rejects.toThrow(/offline|not there/);
      await saveSettings(runtime(), { offlineCounts: true });
      expect(await wipeView(runtime(), id)).toMatchObject({
        verdict: 'asOf',
        may: true,
        because: expect.stringContaining('as of 2'),
      });
      // An empty folder is left where the drive was mounted, or another drive is.
      mkdirSync(r.drive('South'));
      r.tell('South', { volume: 'another' });
      expect((await wipeView(runtime(), id)).copies[1]).toMatchObject({ present: false });
      await saveSettings(runtime(), { offlineCounts: false });
      expect((await wipeView(runtime(), id)).verdict).toBe('notNow');
      rmSync(r.drive('South'), { recursive: true });
    } finally {
      renameSync(`${r.drive('South')}-away`, r.drive('South'));
      r.calm();
    }
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    // Seen emptied, then away: what was seen last counts.
    rmSync(inCopy('South', id, 'CLIP/T0001.MP4'));
    await wipeView(runtime(), id);
    renameSync(r.drive('South'), `${r.drive('South')}-away`);
    await saveSettings(runtime(), { offlineCounts: true });
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
    await saveSettings(runtime(), { offlineCounts: false });
    renameSync(`${r.drive('South')}-away`, r.drive('South'));
  });

  test('a copy on the drive that the card’s folder is on does not count: the drive may be wiped with it', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    const on = async (kind: 'source' | 'safe', name: string) => {
      mkdirSync(r.drive('East', name), { recursive: true });
      return (await addRoot(runtime(), { kind, path: r.drive('East', name) })).id;
    };
    await r.copy(id, { safe: [r.roots.North!, await on('safe', 'copies')] });
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    // The card's folder was moved to that drive by hand, and is offered from there.
    const root = await on('source', 'dump');
    cpSync(r.reader(id), r.drive('East', 'dump', id), { recursive: true, preserveTimestamps: true });
    rmSync(r.reader(id), { recursive: true });
    await r.copy(id, { root, path: id, folder: '', safe: [await on('safe', 'more')] });
    const answer = await wipeView(runtime(), id);
    expect(answer).toMatchObject({ verdict: 'no', scope: 'folder' });
    expect(answer.reasons.map((x) => x.text).join(' ')).toMatch(
      /copies: .* stands on the disk the card itself is on/,
    );
    expect((await receipt(runtime(), id)).list.map((f) => f.copies)).toEqual([1]);
    expect(answer.copies.map((c) => c.withCard)).toEqual([false, true, true]);
    // So does a card that was kept before its disk was asked for, while it is connected.
    await runtime()
      .db.update(physicalCards)
      .set({ disk: null })
      .where(eq(physicalCards.id, answer.physical!));
    expect((await wipeView(runtime(), id)).copies.map((c) => c.withCard)).toEqual([false, true, true]);
  });

  test('an index that is again what it was is not proven by the copies of what it was meanwhile', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    writeFileSync(r.reader(id, 'INDEX.XML'), '<index n="1"/>');
    const first = statSync(r.reader(id, 'INDEX.XML'));
    await r.copy(id, { safe: [r.roots.North!] });
    writeFileSync(r.reader(id, 'INDEX.XML'), '<index n="two"/>');
    await r.copy(id, { safe: [r.roots.North!] });
    await r.copy(id, { safe: [r.roots.South!] });
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    writeFileSync(r.reader(id, 'INDEX.XML'), '<index n="1"/>');
    utimesSync(r.reader(id, 'INDEX.XML'), first.atime, first.mtime);
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because: expect.stringContaining(
        '1 file on the card is new or changed since it was copied, the first INDEX.XML',
      ),
    });
  });

  test('a drive that was cloned is another drive: its files were never read, and count once they are', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 6000 });
    await r.copy(id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
    const rowOf = async () =>
      (await runtime().db.select().from(safeCopies).where(eq(safeCopies.id, before.id)))[0]!;
    const before = await copyOn(id, 'South');
    const { disk, volume, seenAt } = await rowOf();
    // The clone has the volume's identity, all sizes and times, and one file that was spoilt on the way.
    const file = inCopy('South', id, 'CLIP/T0002.MP4');
    const { atime, mtime } = statSync(file);
    const good = readFileSync(file);
    const bytes = Buffer.from(good);
    bytes[3000]! ^= 1;
    writeFileSync(file, bytes);
    utimesSync(file, atime, mtime);
    r.tell('South', { disk: 'clone' });
    try {
      const answer = await wipeView(runtime(), id);
      expect(answer).toMatchObject({
        verdict: 'no',
        copies: [
          { sameDisk: true, proven: 2 },
          { sameDisk: false, proven: 0, wrong: 0 },
        ],
      });
      expect(answer.reasons.map((x) => x.text).join(' ')).toMatch(
        /2 files on South: .* are now on a different disk from the one that was verified\. Check that copy again/,
      );
      expect(answer.reasons.map((x) => x.way)).toContainEqual({ do: 'check', copy: before.id });
      // What was known of the drive itself is not lost by looking at its clone.
      expect(await rowOf()).toMatchObject({ disk, volume, seenAt });
      expect(await checkAgain(runtime(), before.id)).toMatchObject({ same: 1, changed: ['CLIP/T0002.MP4'] });
      expect(await reasons(id)).toContain('does not hold the same bytes as the card');
      writeFileSync(file, good);
      utimesSync(file, atime, mtime);
      await checkAgain(runtime(), before.id);
      expect(await wipeView(runtime(), id)).toMatchObject({
        verdict: 'yes',
        copies: [{ sameDisk: true }, { sameDisk: true, proven: 2 }],
      });
      // Another drive that comes while it is read: what was read of the one is not said of the other.
      const known = { ...runtime().devices };
      let asked = 0;
      Object.assign(runtime().devices, {
        diskOf: (at: string) => {
          const disk = known.diskOf(at);
          if (asked++ === 0) r.tell('South', { disk: 'third' });
          return disk;
        },
      });
      await expect(
        checkAgain(runtime(), before.id).finally(() =>
          Object.assign(runtime().devices, { diskOf: known.diskOf }),
        ),
      ).rejects.toThrow('Another drive came to the place of South');
      expect((await rowOf()).disk.disks).toEqual(['stand-in clone']);
    } finally {
      r.calm();
    }
    // The drive itself is back: it was read last as its clone.
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
    await checkAgain(runtime(), before.id);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });

  test('two drives that are parts of one disk are one; a disk that cannot be told is none; memory does not count', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    r.tell('North', { disk: 'one' });
    r.tell('South', { disk: 'one' });
    await r.copy(id);
    expect(await wipeView(runtime(), id)).toMatchObject({
      verdict: 'no',
      because:
        'The copies stand on one disk, the stand-in disk one: one fault would take both. Make a copy on another disk.',
    });
    r.calm();
    const folders = ['one', 'two'].map((n) => path.join(r.shelf.dir, n));
    for (const f of folders) mkdirSync(f);
    const [one, two] = await Promise.all(
      folders.map(async (f) => (await addRoot(runtime(), { kind: 'safe', path: f })).id),
    );
    const again = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(again, { safe: [one!, two!] });
    expect((await wipeView(runtime(), again)).verdict).toBe('no');
    const memory = mkdtempSync('/dev/shm/shelf-volume-');
    try {
      const third = (await addRoot(runtime(), { kind: 'safe', path: memory })).id;
      const more = r.card({ 'CLIP/T0001.MP4': 5000 });
      await r.copy(more, { safe: [r.roots.North!, third] });
      expect(await reasons(more)).toContain('stands in memory, which is lost when the power goes');
    } finally {
      rmSync(memory, { recursive: true, force: true });
    }
  });
});

describe('check again', () => {
  const check = async (id: string, drive: string) => checkAgain(runtime(), (await copyOn(id, drive)).id);

  test('compares with the record: an altered, emptied or missing list changes nothing, and is said', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000, 'CLIP/T0002.MP4': 5000 });
    await r.copy(id);
    expect(await check(id, 'North')).toMatchObject({
      against: 'record',
      same: 2,
      witness: 'agrees',
      added: [],
      generation: 2,
    });
    // The bytes are altered, and the list and its chain are made to fit: the record knows better.
    const file = inCopy('South', id, 'CLIP/T0002.MP4');
    const bytes = readFileSync(file);
    const lists = inCopy('South', id, 'ascmhl');
    const name = readdirSync(lists).find((n) => n.endsWith('.mhl'))!;
    const right = execFileSync('xxhsum', ['-q', '-H2', file], { encoding: 'utf8' }).split(/\s/)[0]!;
    const time = statSync(file).mtimeMs / 1000;
    bytes[2000]! ^= 1;
    writeFileSync(file, bytes);
    utimesSync(file, time, time);
    const wrong = execFileSync('xxhsum', ['-q', '-H2', file], { encoding: 'utf8' }).split(/\s/)[0]!;
    const text = readFileSync(path.join(lists, name), 'utf8').replace(right, wrong);
    writeFileSync(path.join(lists, name), text);
    const chain = path.join(lists, 'ascmhl_chain.xml');
    writeFileSync(
      chain,
      readFileSync(chain, 'utf8').replace(
        /<c4>.*<\/c4>/,
        `<c4>${c4FromSha512(createHash('sha512').update(text).digest('hex'))}</c4>`,
      ),
    );
    expect(await check(id, 'South')).toMatchObject({
      same: 1,
      changed: ['CLIP/T0002.MP4'],
      witness: 'altered',
      disagree: ['CLIP/T0002.MP4'],
    });
    expect(await reasons(id)).toContain('does not hold the same bytes as the card');
    for (const n of readdirSync(lists)) rmSync(path.join(lists, n));
    expect(await check(id, 'South')).toMatchObject({
      same: 1,
      changed: ['CLIP/T0002.MP4'],
      witness: 'missing',
    });
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
  });

  test('a copy compared by sizes is not promoted by a list, only by its bytes', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 5000 });
    await r.copy(id, { verification: 'sizes' });
    expect(await reasons(id)).toContain('compared by size only');
    const file = inCopy('South', id, 'CLIP/T0001.MP4');
    const time = statSync(file).mtimeMs / 1000;
    writeFileSync(file, footage('spoilt', 5000));
    utimesSync(file, time, time);
    rmSync(inCopy('South', id, 'ascmhl'), { recursive: true });
    expect(await check(id, 'South')).toMatchObject({
      same: 0,
      changed: ['CLIP/T0001.MP4'],
      added: [],
      witness: 'missing',
    });
    expect((await wipeView(runtime(), id)).verdict).toBe('no');
    writeFileSync(file, readFileSync(r.reader(id, 'CLIP/T0001.MP4')));
    for (const drive of ['North', 'South']) await check(id, drive);
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });

  test('it can be stopped: it does not count', async () => {
    const id = r.card({ 'CLIP/T0001.MP4': 9_000_000 });
    await r.copy(id);
    const copy = await copyOn(id, 'North');
    const task = alone();
    const checked = checkAgain(runtime(), copy.id, task);
    closeGate(task.gate);
    await expect(checked).rejects.toThrow('The check was stopped: it does not count.');
    expect((await copyOn(id, 'North')).check).toBeNull();
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });
});

describe('a reader that always mounts at one place', () => {
  /** A card whose volume is the slot's folder of one name, as a reader mounts every card alike. */
  const swap = (of: Record<string, number>, seed: string): void => {
    rmSync(r.reader(), { recursive: true, force: true });
    for (const [p, size] of Object.entries(of)) put(r.reader('UNTITLED', p), footage(seed + p, size));
  };
  const names = Object.fromEntries([1, 2, 3, 4, 5, 6].map((n) => [`CLIP/T000${n}.MP4`, 1_200_000]));

  test('another card while one waits is not taken for it, and is copied itself; the first goes on when it is back', async () => {
    swap(names, 'first');
    r.tell('Reader 1', SLOW);
    const first = await r.begin('S001', { folder: 'UNTITLED' });
    await until(async () => (await r.view(first)).verified >= 1);
    actOnStandIn({ action: 'pull', slot: 'Reader 1' });
    await runtime().queue.idle('copy');
    expect((await r.view(first)).state).toBe('waiting');
    renameSync(path.join(r.standIns, 'drawer/UNTITLED'), path.join(r.standIns, 'first'));
    swap(Object.fromEntries(Object.keys(names).map((n) => [n, 900_000])), 'second');
    await actOnOffload(runtime(), first, { action: 'resume' });
    await runtime().queue.idle('copy');
    expect(await r.view(first)).toMatchObject({
      state: 'waiting',
      failed: 0,
      fault: 'Another card is in Reader 1. Put S001 back: the copy continues by itself.',
    });
    r.calm();
    const second = await r.copy('S002', { folder: 'UNTITLED', shelf: true });
    expect(second).toMatchObject({ state: 'done', verified: 6 });
    rmSync(r.reader('UNTITLED'), { recursive: true });
    renameSync(path.join(r.standIns, 'first'), r.reader('UNTITLED'));
    await actOnOffload(runtime(), first, { action: 'resume' });
    await runtime().queue.idle('copy');
    expect(await r.view(first)).toMatchObject({ state: 'done', verified: 6, failed: 0 });
    expect(
      execFileSync('diff', ['-r', '--exclude=ascmhl', r.reader('UNTITLED'), inCopy('South', 'S001')], {
        encoding: 'utf8',
      }),
    ).toBe('');
    for (const id of ['S001', 'S002']) expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });

  test('after a card that failed in part the next can be begun, with the same names; a clip left on the first is not the next one’s', async () => {
    swap({ 'CLIP/T0001.MP4': 50_000, 'CLIP/T0002.MP4': 50_000 }, 'third');
    r.tell('Reader 1', { failRead: { file: 'T0002', times: 1000 } });
    const third = await r.copy('S003', { folder: 'UNTITLED', shelf: true });
    expect(third).toMatchObject({ state: 'partly', failed: 1 });
    r.calm();
    swap({ 'CLIP/T0001.MP4': 40_000, 'CLIP/T0002.MP4': 40_000 }, 'fourth');
    expect(await r.copy('S004', { folder: 'UNTITLED', shelf: true })).toMatchObject({
      state: 'done',
      verified: 2,
    });
    const [left] = await runtime()
      .db.select({ clip: files.clip })
      .from(files)
      .where(eq(files.onCard, third.physical));
    await expect(clipFile(runtime(), left!.clip, 'original')).rejects.toThrow(
      'Another card is in Reader 1: T0002.MP4 was not copied',
    );
    // Tried again with the other card in the reader, it waits for its own.
    await actOnOffload(runtime(), third.id, { action: 'retry' });
    await runtime().queue.idle('copy');
    expect(await r.view(third.id)).toMatchObject({
      state: 'waiting',
      fault: expect.stringContaining('Another card is in Reader 1'),
    });
  });

  test('a file that grows on the card is still the card’s', async () => {
    swap({ 'CLIP/T0001.MP4': 50_000, 'CLIP/T0002.MP4': 2_000_000 }, 'fifth');
    r.tell('Reader 1', SLOW);
    const offload = await r.begin('S005', { folder: 'UNTITLED' });
    appendFileSync(r.reader('UNTITLED/CLIP/T0002.MP4'), 'more');
    await runtime().queue.idle('copy');
    expect(await r.view(offload)).toMatchObject({ state: 'partly', failed: 1 });
  });
});

describe('what the database does not take at once', () => {
  /** Lets so many transactions fail that keep what was copied. */
  const failing = (times: number): (() => void) => {
    const { db } = runtime();
    const real = db.transaction.bind(db);
    let left = times;
    type Work = Parameters<typeof real>[0];
    db.transaction = ((work: Work) =>
      real((tx) =>
        work(
          new Proxy(tx, {
            get: (of, name, self) =>
              name === 'execute' && left-- > 0
                ? () => Promise.reject(new Error('the database is busy'))
                : (Reflect.get(of, name, self) as unknown),
          }),
        ),
      )) as typeof db.transaction;
    return () => {
      db.transaction = real;
    };
  };
  const many = Object.fromEntries(Array.from({ length: 12 }, (_, n) => [`CLIP/T00${10 + n}.MP4`, 1_150_000]));

  test('is tried again, and kept', async () => {
    const id = r.card(many);
    r.tell('Reader 1', { slow: 8e6 });
    const offload = await r.begin(id);
    const mend = failing(2);
    await runtime().queue.idle('copy');
    mend();
    expect(await r.view(offload)).toMatchObject({ state: 'done', verified: 12, failed: 0 });
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });

  test('for good: the copy pauses with all its threads at rest, and resumed finds what stands there', async () => {
    const id = r.card(many);
    r.tell('Reader 1', { slow: 8e6 });
    const offload = await r.begin(id);
    const mend = failing(1000);
    await runtime().queue.idle('copy');
    mend();
    expect(await r.view(offload)).toMatchObject({ state: 'paused', fault: 'the database is busy' });
    // Nobody writes any more: what is there stays unchanged.
    const there = () =>
      execFileSync('sh', ['-c', 'find . -type f | sort | xargs -d "\\n" ls -l --time-style=full-iso'], {
        encoding: 'utf8',
        cwd: r.drive('North', 'SLW/Day 1', id),
      });
    const before = there();
    await new Promise((next) => setTimeout(next, 700));
    expect(there()).toBe(before);
    expect(before).not.toContain('.part');
    r.calm();
    await actOnOffload(runtime(), offload, { action: 'resume' });
    await runtime().queue.idle('copy');
    expect(await r.view(offload)).toMatchObject({ state: 'done', verified: 12, failed: 0 });
    expect((await wipeView(runtime(), id)).verdict).toBe('yes');
  });
});

test('naming that copies can be stopped: the family under way goes back, the others stay where they are', async () => {
  const folder = path.join(r.shelf.dir, 'to be named');
  for (const n of [1, 2, 3]) put(path.join(folder, 'CLIP', `T000${n}.MP4`), footage(`named ${n}`, 4_000_000));
  const root = (await addRoot(runtime(), { kind: 'source', path: folder })).id;
  const [looked] = (await look(runtime(), root, '')).cards;
  await takeIn(runtime(), {
    root,
    path: '',
    cards: [{ folder: looked!.folder, camera: 'B', cardId: 'N001', day: 1, date: null }],
  });
  await runtime().db.update(clips).set({ state: 'read', fault: null }).where(eq(clips.card, 'N001'));
  const request = namingRequest({ cards: ['N001'] });
  const { preview } = await planNaming(runtime(), request);
  expect(preview).toMatchObject({ copies: 3, stops: 0 });
  const task = alone();
  const applied = applyNaming(runtime(), { ...request, fingerprint: preview.fingerprint }, task);
  closeGate(task.gate);
  expect(await applied).toMatchObject({ done: 0, state: 'partly' });
  expect((await clipViews(runtime(), 'N001')).every((c) => !c.named)).toBe(true);
  expect((await planNaming(runtime(), request)).preview).toMatchObject({ copies: 3, stops: 0 });
  // So can the proving of pairs.
  const ids = (await clipViews(runtime(), 'N001')).map((c) => c.id);
  const proving = alone();
  const progress = jest.fn(() => closeGate(proving.gate));
  await provePairs(runtime(), ids, { ...proving, progress });
  expect(progress.mock.calls).toEqual([[1, 3]]);
});
