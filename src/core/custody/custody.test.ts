import { describe, expect, test } from '@jest/globals';
import { type DiskIdentity, diskWords } from '../platform/disks';
import { shownPath } from '../platform/names';
import { isExpectedCard, type KnownFile, type ManifestFile, relate } from './manifest';
import { checkFile, type CopyReading, type Proof, proofOf } from './proof';
import { type CardCopy, mayBeWiped, type WipeQuestion } from './wipe';

const recording = (
  path: string,
  sample: string | null,
  change: Partial<ManifestFile> = {},
): ManifestFile => ({ path, size: 100, modified: 1e12, sample, ...change });
const known = (...files: ManifestFile[]): KnownFile[] =>
  files.map((f, number) => ({ ...f, number, gone: false }));

describe('a card is known by its manifest', () => {
  const [a, b, index] = [recording('CLIP/T1', 'a'), recording('CLIP/T2', 'b'), recording('INDEX.XML', null)];
  test('as it was: the same, nothing new', () =>
    expect(relate(known(a, b, index), [a, b, index])).toEqual({
      same: true,
      kept: [0, 1, 2],
      fresh: [],
      gone: [],
    }));
  test('with clips since, and an index the camera wrote anew: the same, with what is new', () => {
    const more = [a, b, { ...index, size: 120 }, recording('CLIP/T3', 'c')];
    expect(relate(known(a, b, index), more)).toMatchObject({
      same: true,
      kept: [0, 1],
      fresh: [more[2], more[3]],
      gone: [2],
    });
  });
  test('another card with the same names is another card', () => {
    expect(relate(known(a, b), [recording('CLIP/T1', 'x'), recording('CLIP/T2', 'y')]).same).toBe(false);
    expect(relate(known(a, b), [recording('CLIP/T1', 'a'), recording('CLIP/T2', 'y')]).same).toBe(false);
  });
  test('one clip that two cards share does not make them one, nor a few that are left of many', () => {
    expect(relate(known(a, b, recording('CLIP/T3', 'c')), [a, recording('CLIP/T9', 'z')]).same).toBe(false);
  });
  test('a FAT card’s times move with the time zone: its recordings are known all the same', () => {
    const moved = (f: typeof a, by: number) => ({ ...f, modified: f.modified + by });
    expect(relate(known(a, b), [moved(a, 3_600_000), moved(b, 3_600_000)])).toMatchObject({
      same: true,
      fresh: [],
    });
    // All of a card's times move together: one that moved alone, or by another span, was written anew.
    expect(relate(known(a, b), [moved(a, 3_600_000), b])).toMatchObject({ same: false, kept: [1] });
    expect(relate(known(a, b), [moved(a, 3_600_000), moved(b, 7_200_000)])).toMatchObject({
      same: false,
      kept: [0],
    });
  });
  test('a recording that was written anew is not the one that was copied, though its size and fingerprint are the same', () => {
    expect(relate(known(a, b), [{ ...a, modified: a.modified + 60_000 }, b])).toMatchObject({
      same: false,
      kept: [1],
    });
    expect(relate(known(a, b), [{ ...a, modified: a.modified + 27 * 3_600_000 }, b]).same).toBe(false);
  });
  test('without recordings, only all of its files will do', () => {
    expect(relate(known(index), [index]).same).toBe(true);
    expect(relate(known(index), [{ ...index, size: 1 }]).same).toBe(false);
    expect(relate([], [index]).same).toBe(false);
  });
  test('a file that had gone and is there again', () => {
    const list = known(a, b);
    list[1]!.gone = true;
    expect(relate(list, [a, b])).toMatchObject({ same: true, kept: [0, 1], gone: [], fresh: [] });
  });
  test('in the reader: one that grows is still the card, another card is not', () => {
    expect(isExpectedCard(['match', 'grown', 'other'])).toBe(true);
    expect(isExpectedCard(['match', 'other', 'other'])).toBe(false);
    expect(isExpectedCard(['grown'])).toBe(false);
    expect(isExpectedCard([])).toBe(false);
  });
});

describe('what a copy proves of a file', () => {
  const read: CopyReading = {
    how: 'copied',
    result: 'read',
    kind: 'xxh128',
    value: 'h',
    size: 10,
    modified: 5e12,
  };
  const there = { size: 10, modified: 5e12 };
  const card = [{ kind: 'xxh128' as const, value: 'h' }];
  test.each([
    ['its bytes were read and it stands as then', card, read, there, 'proven'],
    [
      'it stands with the two seconds a FAT volume may be off',
      card,
      read,
      { ...there, modified: 5e12 + 1900 },
      'proven',
    ],
    ['it is gone', card, read, null, 'missing'],
    ['it was emptied', card, read, { size: 0, modified: 5e12 }, 'altered'],
    ['it was written to', card, read, { size: 10, modified: 5e12 + 60_000 }, 'altered'],
    ['only its size was compared', card, { ...read, result: 'sizeOnly', value: null }, there, 'sizeOnly'],
    ['it was found changed', card, { ...read, result: 'changed', value: 'x' }, there, 'otherBytes'],
    [
      'it was found missing and is there again',
      card,
      { ...read, result: 'missing', size: 0, modified: 0 },
      there,
      'altered',
    ],
    ['it could not be read', card, { ...read, result: 'unreadable', value: null }, there, 'unreadable'],
    [
      'the card gave other bytes since',
      [{ kind: 'xxh128' as const, value: 'new' }],
      read,
      there,
      'otherBytes',
    ],
    ['the card was hashed in another way', [{ kind: 'md5' as const, value: 'h' }], read, there, 'cardUnread'],
    ['the card was never read', [], read, there, 'cardUnread'],
  ] as const)('%s', (_, hashes, reading, standing, proof) =>
    expect(proofOf(hashes, reading as CopyReading, standing)).toBe(proof),
  );

  test('a check compares with the record first; the list is a second witness', () => {
    const h = (value: string, kind: 'xxh128' | 'md5' = 'xxh128') => ({ kind, value });
    expect(checkFile(h('a'), h('a'), [h('a')])).toEqual({ result: 'same', list: 'agrees' });
    // The list was altered to fit bytes that were altered, or for no reason: the record says what is right.
    expect(checkFile(h('a'), h('b'), [h('b')])).toEqual({ result: 'changed', list: 'differs' });
    expect(checkFile(h('a'), h('b'), [h('a')])).toEqual({ result: 'same', list: 'differs' });
    expect(checkFile(h('a'), null, [h('a')])).toEqual({ result: 'same', list: 'silent' });
    expect(checkFile(h('a'), h('m', 'md5'), [h('a'), h('m', 'md5')])).toEqual({
      result: 'same',
      list: 'agrees',
    });
    expect(checkFile(h('a'), h('m', 'md5'), [h('a'), h('n', 'md5')])).toEqual({
      result: 'same',
      list: 'differs',
    });
    expect(checkFile(h('a'), h('a'), null)).toMatchObject({ result: 'unreadable' });
  });
});

const disk = (...disks: string[]): DiskIdentity => ({
  kind: disks.length > 0 ? 'disk' : 'unknown',
  disks,
  lasting: true,
  name: disks.join(' and ') || 'not told',
});
const card = ['a.MP4', 'b.MP4'].map((path, number) => ({
  number,
  path: shownPath(path),
  size: 10,
  fault: null,
  left: false,
}));
const proofs = (a: Proof | null = 'proven', b: Proof | null = 'proven') =>
  new Map([a, b].flatMap((p, i) => (p ? [[i, p] as const] : [])));
const copy = (id: string, change: Partial<CardCopy> = {}): CardCopy => ({
  id,
  place: `${id}: B002`,
  disk: disk(id),
  presence: 'there',
  seenAt: '2026-05-06T20:00:00.000Z',
  kind: 'xxh128',
  proofs: proofs(),
  ...change,
});
const ask = (copies: CardCopy[], change: Partial<WipeQuestion> = {}) =>
  mayBeWiped({
    card,
    cardDisk: null,
    copies,
    cannot: [],
    running: false,
    newOnCard: null,
    unseenOnCard: [],
    unknownInPlace: false,
    allowOffline: false,
    serversApart: false,
    scope: 'volume',
    ...change,
  });

describe('may this card be wiped?', () => {
  test('yes: two copies, read back, on two disks', () => {
    expect(ask([copy('n'), copy('s')])).toEqual({
      verdict: 'yes',
      may: true,
      because: 'All 2 files of the card are in 2 copies on 2 disks, verified by contents (XXH3-128).',
      reasons: [],
      notes: [],
    });
    expect(ask([copy('n'), copy('s')], { scope: 'folder' }).because).toContain('All 2 files of this folder');
  });
  test('what was copied to one folder in several goes is one copy', () => {
    const again = [copy('n'), copy('s'), copy('n'), copy('s')];
    expect(ask(again).because).toContain('in 2 copies on 2 disks');
  });
  test('what is wrong with several copies at one place is said once', () => {
    const gone = copy('n', { proofs: proofs('missing', 'missing') });
    const { reasons } = ask([copy('n'), copy('s', { disk: disk('n') }), gone, { ...gone, id: 'n2' }]);
    expect(reasons.filter((r) => r.text.includes('no longer there'))).toHaveLength(1);
  });
  test('two halves in four copies are a whole', () => {
    expect(
      ask([
        copy('n', { proofs: proofs('proven', null) }),
        copy('s', { proofs: proofs('proven', null) }),
        copy('n2', { disk: disk('n'), proofs: proofs(null) }),
        copy('s2', { disk: disk('s'), proofs: proofs(null) }),
      ]),
    ).toMatchObject({ may: true, because: expect.stringContaining('are in 2 copies on 2 disks') });
  });
  test('a copy of one of the files makes no copy more of all of them', () => {
    const some = copy('t', { proofs: proofs('proven', null) });
    expect(ask([copy('n'), copy('s'), some]).because).toContain('are in at least 2 copies on 2 disks');
    expect(ask([copy('n'), copy('s'), copy('t')]).because).toContain('are in 3 copies on 3 disks');
    const inMemory = copy('t', { disk: { ...disk('t'), kind: 'memory' } });
    expect(ask([copy('n'), copy('s'), inMemory]).because).toContain('are in 2 copies on 2 disks');
    const spoilt = copy('t', { proofs: proofs('otherBytes', 'proven') });
    expect(ask([copy('n'), copy('s'), spoilt]).because).toContain('are in at least 2 copies on 2 disks');
  });
  test.each([
    ['no copy', [], 'no', '2 files of 2 are in no verified copy, the first a.MP4.', 'copy'],
    ['one copy', [copy('n')], 'no', 'in one verified copy only', 'copy'],
    [
      'two on one disk',
      [copy('n'), copy('s', { disk: disk('n') })],
      'no',
      'The copies stand on one disk, n',
      'copy',
    ],
    [
      'a RAID that shares a disk',
      [copy('n'), copy('s', { disk: disk('n', 'x') })],
      'no',
      'stand on one disk',
      'copy',
    ],
    [
      'a disk that cannot be told',
      [copy('n'), copy('s', { disk: disk() })],
      'no',
      'cannot be told (not told)',
      'copy',
    ],
    [
      'one in memory',
      [copy('n'), copy('s', { disk: { ...disk(), kind: 'memory' } })],
      'no',
      's: B002 stands in memory',
      'copy',
    ],
    [
      'one by sizes',
      [copy('n'), copy('s', { proofs: proofs('sizeOnly', 'sizeOnly') })],
      'no',
      '2 files on s: B002 were compared by size only',
      'check',
    ],
    [
      'one emptied',
      [copy('n'), copy('s', { proofs: proofs('missing', 'missing') })],
      'no',
      '2 files on s: B002 are no longer there',
      'check',
    ],
    [
      'one altered',
      [copy('n'), copy('s', { proofs: proofs('proven', 'altered') })],
      'no',
      '1 file on s: B002 was changed or replaced',
      'check',
    ],
    [
      'one with other bytes',
      [copy('n'), copy('s', { proofs: proofs('otherBytes') })],
      'no',
      '1 file on s: B002 does not hold the same bytes',
      'copy',
    ],
    [
      'one lacks a file',
      [copy('n'), copy('s', { proofs: proofs('proven', null) })],
      'no',
      '1 file of 2 is in one verified copy only',
      'copy',
    ],
    [
      'one is offline',
      [copy('n'), copy('s', { presence: 'offline' })],
      'notNow',
      's: B002 is offline, last seen 2026-05-06 20:00 UTC',
      'connect',
    ],
    [
      'one is offline and was not whole',
      [copy('n'), copy('s', { presence: 'offline', proofs: proofs('missing') })],
      'no',
      '1 file on s: B002 is no longer there',
      'connect',
    ],
    [
      'one is offline and was never seen',
      [copy('n'), copy('s', { presence: 'offline', seenAt: null })],
      'no',
      'is offline: connect',
      'connect',
    ],
    [
      'one is offline on a disk known by its name only',
      [copy('n'), copy('s', { presence: 'offline', disk: { ...disk('sdb'), lasting: false } })],
      'no',
      'is offline',
      'connect',
    ],
  ] as const)('no: %s', (_, copies, verdict, says, way) => {
    const a = ask([...copies]);
    expect(a).toMatchObject({ may: false, verdict });
    expect(a.reasons.map((r) => r.text).join(' ')).toContain(says);
    expect(a.reasons.map((r) => r.way?.do)).toContain(way);
    // What the person did not allow changes nothing where it is not what is missing.
    expect(ask([...copies], { allowOffline: true }).verdict).toBe(verdict === 'notNow' ? 'asOf' : verdict);
  });
  test('as of: where the person lets drives count that are away, it says as of when', () => {
    const a = ask([copy('n'), copy('s', { presence: 'offline' })], { allowOffline: true });
    expect(a).toMatchObject({
      verdict: 'asOf',
      may: true,
      because:
        'All 2 files of the card are in 2 copies on 2 disks, verified by contents (XXH3-128), as of 2026-05-06 20:00 UTC.',
    });
  });
  test('no while it is copied, where something could not be read on it, or is new on it', () => {
    const both = [copy('n'), copy('s')];
    expect(ask(both, { running: true }).may).toBe(false);
    expect(ask(both, { newOnCard: [shownPath('T9.MP4')] })).toMatchObject({
      may: false,
      because:
        '1 file on the card is new or changed since it was copied, the first T9.MP4. Copy the card again to add it.',
    });
    expect(ask(both, { newOnCard: [] }).may).toBe(true);
    const dying = ['', 'CLIP/T0004.MP4'].map((p) => ({ path: shownPath(p), reason: 'the drive fails' }));
    expect(ask(both, { newOnCard: [], unseenOnCard: dying.slice(1) })).toMatchObject({
      ...{ may: false, reasons: [{ files: ['CLIP/T0004.MP4'], way: { do: 'copy' } }] },
      because:
        'CLIP/T0004.MP4 cannot be looked at now (the drive fails): what is there may be new. Put the card in again and ask again, or copy it again.',
    });
    expect(ask(both, { unseenOnCard: dying }).because).toMatch(
      /^The card cannot be looked at now, nor 1 more \(the drive fails\)/,
    );
    expect(ask(both, { unknownInPlace: true })).toMatchObject({
      may: false,
      because: expect.stringContaining('has not been copied: another card, or this one refilled'),
    });
    const unread = ask(both, {
      cannot: [
        { path: shownPath('DCIM/102'), reason: 'this folder cannot be read', unread: true },
        { path: shownPath('link'), reason: 'a link' },
      ],
    });
    expect(unread).toMatchObject({
      may: false,
      because:
        'DCIM/102 could not be read on the card (this folder cannot be read): what is there is in no copy. Copy the card again.',
    });
    expect(unread.notes.join(' ')).not.toContain('DCIM/102');
  });
  test('each no names the files and the way on', () => {
    const list = Array.from({ length: 40 }, (_, number) => ({
      number,
      path: shownPath(`T${number}`),
      size: 1,
      fault: number === 3 ? 'cannot be read (EIO)' : null,
      left: number === 5,
    }));
    const a = ask([], { card: list });
    expect(a.reasons.map((r) => [r.count, r.files.length, r.way?.do])).toEqual([
      [1, 1, 'retry'],
      [1, 1, 'copy'],
      [38, 8, 'copy'],
    ]);
    expect(a.because).toBe('1 file could not be copied, the first T3: cannot be read (EIO)');
  });
  test('a copy on the disk the card is on may go with it: it does not count, also where it is away', () => {
    const cardDisk = disk('s', 'x');
    const a = ask([copy('n'), copy('s')], { cardDisk });
    expect(a).toMatchObject({
      may: false,
      verdict: 'no',
      because: '2 files of 2 are in one verified copy only. Make another on a different disk.',
    });
    expect(a.reasons[1]!.text).toBe(
      's: B002 stands on the disk the card itself is on: what wipes the one may take the other, so that it does not count.',
    );
    expect(
      ask([copy('n'), copy('s', { presence: 'offline' })], { cardDisk, allowOffline: true }).verdict,
    ).toBe('no');
    expect(ask([copy('n'), copy('s'), copy('e')], { cardDisk })).toMatchObject({
      may: true,
      because: expect.stringContaining('in 2 copies on 2 disks'),
    });
  });
  test('two servers are two only where the person says so: one may have several addresses', () => {
    const share = (n: number): DiskIdentity => ({
      kind: 'network',
      disks: [`server 10.0.0.${n}`],
      lasting: true,
      name: `the server store${n}`,
    });
    const both = [copy('n', { disk: share(5) }), copy('s', { disk: share(6) })];
    const a = ask(both);
    expect(a).toMatchObject({
      may: false,
      because:
        'n: B002 and s: B002 are on servers of different addresses (server 10.0.0.5, server 10.0.0.6), which may be one server: whether they are two, only a person can say.',
    });
    expect(a.reasons[0]!.way).toEqual({ do: 'servers' });
    expect(ask(both, { serversApart: true }).verdict).toBe('yes');
    expect(
      ask([copy('n', { disk: share(5) }), copy('s', { disk: share(5) })], { serversApart: true }).because,
    ).toContain('The copies stand on one disk');
    expect(ask([copy('n'), copy('s', { disk: share(6) })]).verdict).toBe('yes');
  });
  test('a third copy that is away or wrong is a note, not a no; links on the card are noted', () => {
    const a = ask([copy('n'), copy('s'), copy('e', { presence: 'offline' })], {
      cannot: [{ path: shownPath('DCIM/link'), reason: 'a link' }],
    });
    expect(a.may).toBe(true);
    expect(a.notes.join(' ')).toMatch(/e: B002 is offline.*no plain file.*DCIM\/link/);
  });
  test('an unknown card is not wiped', () =>
    expect(ask([copy('n'), copy('s')], { card: [] }).may).toBe(false));
});

test('why a disk cannot be told is not said as if it were one', () => {
  expect(diskWords(disk('sda'))).toBe('sda');
  expect(diskWords(disk())).toBe('an unknown disk (not told)');
});
