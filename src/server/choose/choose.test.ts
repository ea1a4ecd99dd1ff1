import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { and, eq } from 'drizzle-orm';
import path from 'node:path';
import { Change, FindIds, FindQuery, type Found, RangesQuery } from '../../core/choose';
import type { Changed } from '../../core/platform/shapes';
import { fps } from '../../core/platform/timecode/rate';
import { clipViews } from '../cards';
import { stateOf } from '../analysis';
import { analyses } from '../analysis/tables';
import { clips, files } from '../cards/tables';
import { forgetClips } from '../cards/clips';
import { correctClips } from '../facts';
import { log } from '../logbook/tables';
import { storeJobOfMany } from '../testing/manyClips';
import { type TestShelf, testShelf } from '../testing/media';
import { changeChoice, takeSearches, undoChoice } from './change';
import { chooseView, findClips, findIds, findRanges } from './find';
import { loadMarks, type Marks, marksOf } from './marks';
import { exportSearches } from './searches';
import { stringOutDetail } from './stringOuts';
import { bins, binned, keyworded, keywords, ranges, searches, stringOuts, strung } from './tables';

let s: TestShelf;
let ids: string[];

beforeAll(async () => {
  s = await testShelf();
  await storeJobOfMany(s.runtime, path.join(s.dir, 'cards'), 30);
  ids = (await clipViews(s.runtime)).map((c) => c.id);
});
afterAll(() => s.close());
beforeEach(async () => {
  for (const table of [keywords, bins, searches, ranges, stringOuts]) await s.runtime.db.delete(table);
  s.runtime.events.changed('choose');
});

/** As it comes from a request. What is held in memory is then as the database has it. */
const change = (c: object): Promise<Changed> => asHeld(() => changeChoice(s.runtime, Change.parse(c)));
const undo = (id: string | null): Promise<Changed> => asHeld(() => undoChoice(s.runtime, id!));
async function asHeld(work: () => Promise<Changed>): Promise<Changed> {
  await marksOf(s.runtime);
  const changed = await work();
  expect(inAnyOrder(await marksOf(s.runtime))).toEqual(inAnyOrder(await loadMarks(s.runtime)));
  return changed;
}
/** What stands in lists of a clip without an order of its own. */
const inAnyOrder = (marks: Marks) => ({
  ...marks,
  keyworded: sorted(marks.keyworded),
  binned: sorted(marks.binned),
  ranges: new Map([...marks.ranges].sort()),
  noted: new Map([...marks.noted].sort()),
});
const sorted = (of: ReadonlyMap<string, unknown[]>) =>
  [...of].map(([clip, list]) => [clip, list.map((x) => JSON.stringify(x)).sort()]).sort();
const find = (query: string, more: object = {}): Promise<Found> =>
  findClips(s.runtime, FindQuery.parse({ query, limit: 500, ...more }));
const found = async (query: string, more: object = {}): Promise<string[]> =>
  (await find(query, more)).tiles.map((t) => t.id);
const view = () => chooseView(s.runtime);
const binId = async (name: string): Promise<string> => (await view()).bins.find((b) => b.name === name)!.id;
const keywordId = async (name: string): Promise<string> =>
  (await view()).keywords.find((k) => k.name === name)!.id;
/** Every row of the room’s tables. */
const everything = async (): Promise<unknown[]> => {
  const all: unknown[] = [];
  for (const table of [keywords, keyworded, bins, binned, ranges, searches, stringOuts, strung])
    all.push((await s.runtime.db.select().from(table)).map((r) => JSON.stringify(r)).sort());
  return all;
};

describe('keywords', () => {
  test('given, taken away, counted, written in the logbook, undone and done again', async () => {
    const before = await everything();
    const given = await change({ do: 'addKeyword', clips: ids.slice(0, 12), name: ' the  wheel ' });
    expect(given.text).toBe('12 clips: keyword the wheel added');
    expect(await found('keyword is "the wheel"')).toEqual(ids.slice(0, 12));
    expect((await view()).keywords).toMatchObject([{ name: 'the wheel', clips: 12 }]);
    const after = await everything();
    const [line] = await s.runtime.db.select().from(log).where(eq(log.text, given.text));
    expect(line).toMatchObject({ kind: 'choose' });

    const back = await undo(given.undo);
    expect(back.text).toBe('Undone: 12 clips: keyword the wheel added');
    expect(await everything()).toEqual(before);
    const again = await undo(back.undo);
    expect(again.text).toBe('12 clips: keyword the wheel added');
    expect(await everything()).toEqual(after);

    const taken = await change({
      do: 'takeKeyword',
      clips: ids.slice(0, 20),
      keyword: await keywordId('the wheel'),
    });
    expect(taken.text).toBe('12 clips: keyword the wheel taken away');
    expect(await found('with keyword')).toEqual([]);
    await undo(taken.undo);
    expect(await everything()).toEqual(after);
  });

  test('differing in case or Unicode form only they are one, under the name it was given first', async () => {
    await change({ do: 'addKeyword', clips: [ids[0]], name: 'Écluse' });
    const same = await change({ do: 'addKeyword', clips: [ids[0], ids[1]], name: 'E\u0301CLUSE' });
    expect(same.text).toBe('1 clip: keyword Écluse added');
    expect((await view()).keywords).toMatchObject([{ name: 'Écluse', clips: 2 }]);
    expect(await change({ do: 'addKeyword', clips: [ids[0]], name: 'écluse' })).toEqual({
      text: 'All of them have the keyword Écluse already',
      undo: null,
    });
  });

  test('a name that is none is refused, and nothing is kept', () => {
    for (const name of ['', ' \n', 'x'.repeat(121)])
      expect(Change.safeParse({ do: 'addKeyword', clips: ids, name }).success).toBe(false);
  });

  test('renamed, put on a key, in a group; a name or key that is taken', async () => {
    await change({ do: 'addKeyword', clips: [ids[0]], name: 'gate' });
    await change({ do: 'addKeyword', clips: [ids[1]], name: 'wheel' });
    const [gate, wheel] = [await keywordId('gate'), await keywordId('wheel')];
    const edit = (keyword: string, name: string, set: object) =>
      change({ do: 'editKeyword', keyword, was: { name, family: '', hotkey: null }, set });
    await expect(edit(gate, 'gate', { name: 'WHEEL' })).rejects.toThrow(
      'There is a keyword “wheel” already.',
    );
    await edit(gate, 'gate', { name: 'sluice gate', hotkey: 3, family: 'Mill' });
    const moved = await edit(wheel, 'wheel', { hotkey: 3 });
    expect((await view()).keywords).toMatchObject([
      { name: 'sluice gate', hotkey: null, family: 'Mill' },
      { name: 'wheel', hotkey: 3 },
    ]);
    await undo(moved.undo);
    expect((await view()).keywords.map((k) => k.hotkey)).toEqual([3, null]);
    // Another person saw it under its old name.
    await expect(edit(gate, 'gate', { name: 'paddle' })).rejects.toThrow(
      'The keyword “gate” was renamed to “sluice gate” meanwhile. Nothing was changed.',
    );
  });

  test('are listed as they were put, in their groups, others behind them by name; undone', async () => {
    for (const name of ['reed', 'gate', 'wheel', 'arch'])
      await change({ do: 'addKeyword', clips: [ids[0]], name });
    const listed = async () => (await view()).keywords.map((k) => k.name);
    const move = async (name: string, before: string | null) =>
      change({
        do: 'moveKeyword',
        keyword: await keywordId(name),
        before: before && (await keywordId(before)),
      });
    expect(await listed()).toEqual(['arch', 'gate', 'reed', 'wheel']);
    const first = await move('wheel', 'arch');
    expect(first.text).toBe('Keyword wheel listed before arch');
    expect(await listed()).toEqual(['wheel', 'arch', 'gate', 'reed']);
    expect((await move('arch', null)).text).toBe('Keyword arch listed last');
    expect(await listed()).toEqual(['wheel', 'gate', 'reed', 'arch']);
    // What is new has no place yet.
    await change({ do: 'addKeyword', clips: [ids[0]], name: 'a new one' });
    expect(await listed()).toEqual(['wheel', 'gate', 'reed', 'arch', 'a new one']);
    expect(await move('gate', 'reed')).toMatchObject({ text: 'Nothing was changed' });
    expect(await move('gate', 'gate')).toMatchObject({ text: 'Nothing was changed' });
    // Before one of another group it is of that.
    const mill = { name: 'reed', family: '', hotkey: null };
    await change({
      do: 'editKeyword',
      keyword: await keywordId('reed'),
      was: mill,
      set: { family: 'Mill' },
    });
    const joined = await move('wheel', 'reed');
    expect((await view()).keywords.filter((k) => k.family === 'Mill').map((k) => k.name)).toEqual([
      'wheel',
      'reed',
    ]);
    await undo(joined.undo);
    expect((await view()).keywords.filter((k) => k.family === 'Mill').map((k) => k.name)).toEqual(['reed']);
    await expect(
      change({ do: 'moveKeyword', keyword: await keywordId('gate'), before: 'gone' }),
    ).rejects.toThrow('This keyword was removed meanwhile.');
  });

  test('merged and removed, with what had them, and back', async () => {
    await change({ do: 'addKeyword', clips: ids.slice(0, 4), name: 'gate' });
    await change({ do: 'addKeyword', clips: ids.slice(2, 6), name: 'sluice' });
    const before = await everything();
    const merged = await change({
      do: 'mergeKeyword',
      keyword: await keywordId('gate'),
      into: await keywordId('sluice'),
    });
    expect(merged.text).toBe('Keyword gate merged into sluice, 4 clips');
    expect((await view()).keywords).toMatchObject([{ name: 'sluice', clips: 6 }]);
    await undo(merged.undo);
    expect(await everything()).toEqual(before);
    const removed = await change({ do: 'removeKeyword', keyword: await keywordId('gate') });
    expect((await view()).keywords.map((k) => k.name)).toEqual(['sluice']);
    await undo(removed.undo);
    expect(await everything()).toEqual(before);
  });

  test('what somebody changed since stays, and is told', async () => {
    const given = await change({ do: 'addKeyword', clips: ids.slice(0, 3), name: 'rain' });
    const keyword = await keywordId('rain');
    await change({ do: 'takeKeyword', clips: [ids[0]], keyword });
    await change({ do: 'editKeyword', keyword, was: { family: '' }, set: { family: 'Weather' } });
    const back = await undo(given.undo);
    expect(back.text).toBe('Undone: 3 clips: keyword rain added (2 marks changed since stay as they are)');
    expect((await view()).keywords).toMatchObject([{ name: 'rain', family: 'Weather', clips: 0 }]);
    await expect(undo(given.undo)).rejects.toThrow('This can no longer be undone');
  });
});

describe('bins', () => {
  test('made, nested, filled, moved and removed: no clip goes', async () => {
    await change({ do: 'addBin', name: 'Wheel', clips: ids.slice(0, 3) });
    const wheel = await binId('Wheel');
    await change({ do: 'addBin', name: 'Close', parent: wheel });
    const close = await binId('Close');
    expect((await change({ do: 'putInBin', bin: close, clips: ids.slice(2, 6) })).text).toBe(
      '4 clips put in bin Close',
    );
    // A clip that stands in both counts once.
    expect((await view()).bins).toMatchObject([
      { name: 'Close', clips: 4 },
      { name: 'Wheel', clips: 6 },
    ]);
    expect(await found('', { bin: wheel })).toEqual(ids.slice(0, 6));
    expect(await found('bin is wheel')).toEqual(ids.slice(0, 6));
    expect((await view()).unbinned).toBe(24);
    expect(await found('no bin')).toEqual(await found('', { bin: 'none' }));
    await expect(change({ do: 'moveBins', bins: [wheel], into: close })).rejects.toThrow(
      'Wheel cannot be moved: A bin cannot stand in one that stands in it.',
    );
    const before = await everything();
    await change({ do: 'putInBin', bin: close, clips: [ids[0]], from: wheel });
    expect(await found('', { bin: close })).toContain(ids[0]);
    const removed = await change({ do: 'removeBin', bin: wheel });
    expect(removed.text).toBe('Bin Wheel removed with 1 bin in it; its clips stay in the job');
    expect((await view()).bins).toEqual([]);
    expect((await find('')).clips).toBe(30);
    await undo(removed.undo);
    await change({ do: 'putInBin', bin: wheel, clips: [ids[0]], from: close });
    expect(await everything()).toEqual(before);
  });

  test('by what clips say of themselves; made again they are used, not doubled', async () => {
    await change({ do: 'makeBins', by: 'rate' });
    const bins = (await view()).bins.map((b) => [b.name, b.clips]);
    expect(bins).toEqual([
      ['25 fps', 10],
      ['29.97 fps', 10],
      ['50 fps', 10],
    ]);
    const again = await change({ do: 'makeBins', by: 'rate' });
    expect(again).toEqual({ text: 'These bins are there already, with all their clips', undo: null });
    await change({ do: 'makeBins', by: 'folder' });
    const folders = (await view()).bins;
    const clip = folders.find((b) => b.name === 'CLIP')!;
    expect(folders.find((b) => b.id === clip.parent)!.name).toBe('B001');
    expect(clip.clips).toBe(3);
  });

  test('two who rename one: the second is told, and both may fill it', async () => {
    await change({ do: 'addBin', name: 'Wheel' });
    const bin = await binId('Wheel');
    const was = { name: 'Wheel', label: null, note: '' };
    await change({ do: 'editBin', bin, was, set: { name: 'Water wheel', label: 'disc', note: 'theirs' } });
    await expect(change({ do: 'editBin', bin, was, set: { name: 'W' } })).rejects.toThrow(
      'The bin “Wheel” was renamed to “Water wheel” meanwhile.',
    );
    await expect(change({ do: 'editBin', bin, was, set: { note: 'mine' } })).rejects.toThrow(
      'The bin “Water wheel” was changed meanwhile: its note is “theirs” now. Nothing was changed.',
    );
    await asHeld(async () => {
      const put = (clips: string[]) => changeChoice(s.runtime, Change.parse({ do: 'putInBin', bin, clips }));
      const [first] = await Promise.all([put(ids.slice(0, 5)), put(ids.slice(3, 9))]);
      return first;
    });
    expect((await view()).bins).toMatchObject([{ name: 'Water wheel', label: 'disc', clips: 9 }]);
  });
});

describe('ranges', () => {
  const range = (more: object = {}) =>
    change({ do: 'addRange', clip: ids[0], from: 2, to: 5, kind: 'select', ...more });
  const tile = async () => (await find('')).tiles.find((t) => t.id === ids[0])!;

  test('kept in frames, several on a clip, with names, notes and keywords; searched; changed; removed', async () => {
    const added = await range({ name: 'turns', note: 'best light' });
    expect(added.text).toMatch(/: select of 3 frames added$/);
    await range({ from: 4, to: 6, kind: 'reject' });
    // A key pressed twice.
    expect(await range()).toEqual({
      text: expect.stringMatching(/: this select is kept already$/),
      undo: null,
    });
    expect((await tile()).ranges).toMatchObject([
      { kind: 'select', from: 2, to: 5, name: 'turns' },
      { kind: 'reject', from: 4, to: 6 },
    ]);
    expect(await found('with select note has light')).toEqual([ids[0]]);
    expect(await found('light')).toEqual([ids[0]]);
    const [select] = (await tile()).ranges;
    await change({ do: 'addKeyword', clips: [ids[0]], range: select!.id, name: 'wheel' });
    expect(await found('keyword is wheel')).toEqual([ids[0]]);
    expect(await tile()).toMatchObject({ keywords: [], ranges: [{ keywords: [expect.any(String)] }, {}] });
    const edit = (was: object, set: object) => change({ do: 'editRange', range: select!.id, was, set });
    await edit({ from: 2, to: 5, kind: 'select' }, { from: 1, kind: 'note' });
    await expect(edit({ from: 1, to: 5, note: 'another' }, { note: 'mine' })).rejects.toThrow(
      'its note is “best light” now',
    );
    await expect(edit({ from: 2, to: 5 }, { from: 0 })).rejects.toThrow('This range was moved meanwhile.');
    const before = await everything();
    const gone = await change({ do: 'removeRanges', ranges: [select!.id] });
    expect((await tile()).ranges).toHaveLength(1);
    expect(await found('keyword is wheel')).toEqual([]);
    await undo(gone.undo);
    expect(await everything()).toEqual(before);
  });

  test('outside the clip, of no length, or on a clip whose length is not known: refused with the reason', async () => {
    const frames = (await tile()).frames!;
    await expect(range({ to: frames + 1 })).rejects.toThrow(
      `cannot have this range: the clip has ${frames} frames.`,
    );
    await expect(range({ from: 5 })).rejects.toThrow('the out point is not after the in point');
    await expect(range({ from: -1 })).rejects.toThrow(`the clip has ${frames} frames`);
    await expect(range({ clip: 'gone' })).rejects.toThrow('This clip is no longer in the job.');
    await expect(change({ do: 'addKeyword', clips: [ids[1]], range: 'gone', name: 'x' })).rejects.toThrow(
      'This range was removed meanwhile.',
    );
  });
});

test('what the checks of picture and sound found comes in as ranges of its own, as long as it is of this file', async () => {
  const [file] = await s.runtime.db
    .select()
    .from(files)
    .where(and(eq(files.clip, ids[0]!), eq(files.role, 'original')));
  const seen = {
    findings: [{ what: 'silent' as const, from: 2, to: 6, channels: [] }],
    levels: [],
  };
  const keep = async (of: string) => {
    await s.runtime.db.delete(analyses);
    await s.runtime.db.insert(analyses).values({ clip: ids[0]!, of, seen, at: new Date() });
    s.runtime.events.changed('clips');
  };
  await keep(stateOf(file!));
  expect(await found('finding has silence')).toEqual([ids[0]]);
  expect(await found('with finding')).toEqual([ids[0]]);
  expect((await find('with finding')).tiles[0]!.ranges).toMatchObject([
    { kind: 'found', from: 2, to: 6, name: 'silence' },
  ]);
  // It is neither kept nor changed by anybody.
  await expect(change({ do: 'removeRanges', ranges: [`${ids[0]} silent 2`.slice(0, 64)] })).rejects.toThrow(
    'This range was removed meanwhile.',
  );
  await keep('another file');
  expect(await found('with finding')).toEqual([]);
});

describe('string-outs', () => {
  const made = async () => (await view()).stringOuts;
  const parts = async () => (await stringOutDetail(s.runtime, (await made())[0]!.id)).parts;
  const spans = async () => (await parts()).map((p) => [ids.indexOf(p.clip), p.from, p.to]);

  test('made of clips, added to, put in order, trimmed, split, taken out of; back again step by step', async () => {
    const frames = (await find('')).tiles[0]!.frames!;
    const states: unknown[] = [];
    const undos: (string | null)[] = [];
    const step = async (c: object) => {
      states.push(await everything());
      undos.push((await change(c)).undo);
    };
    await step({
      do: 'addStringOut',
      name: 'Wheel',
      items: [{ clip: ids[0] }, { clip: ids[1], from: 1, to: 4 }],
    });
    expect(await spans()).toEqual([
      [0, 0, frames],
      [1, 1, 4],
    ]);
    const list = (await made())[0]!.id;
    const [first, second] = await parts();
    await step({ do: 'addToStringOut', list, items: [{ clip: ids[2], from: 0, to: 2 }], before: second!.id });
    await step({ do: 'moveInStringOut', list, items: [first!.id], before: null });
    expect(await spans()).toEqual([
      [2, 0, 2],
      [1, 1, 4],
      [0, 0, frames],
    ]);
    await step({ do: 'trimInStringOut', item: first!.id, from: 2, to: 6, was: { from: 0, to: frames } });
    await step({ do: 'splitInStringOut', item: first!.id, at: 4 });
    expect((await spans()).slice(2)).toEqual([
      [0, 2, 4],
      [0, 4, 6],
    ]);
    await step({ do: 'removeFromStringOut', items: [second!.id] });
    await step({ do: 'renameStringOut', list, name: 'The wheel', was: 'Wheel' });
    await step({ do: 'removeStringOut', list });
    expect(await made()).toEqual([]);
    for (const undone of undos.reverse()) {
      await undo(undone);
      expect(await everything()).toEqual(states.pop());
    }
  });

  test('of all that is found, or of its selects; what has frames in common is marked; its time is told', async () => {
    await change({ do: 'addRange', clip: ids[0], from: 1, to: 3, kind: 'select' });
    await change({ do: 'addRange', clip: ids[0], from: 2, to: 5, kind: 'select' });
    await change({ do: 'addRange', clip: ids[1], from: 2, to: 5, kind: 'reject' });
    const wanted = { query: 'with select' };
    await change({ do: 'addStringOut', name: 'Selects', found: { wanted, what: 'selects' } });
    expect((await parts()).map((p) => p.twice)).toEqual([true, true]);
    const { seconds, items } = (await made())[0]!;
    const rate = (await find('')).tiles.find((t) => t.id === ids[0])!.rate!;
    expect([items, seconds]).toEqual([2, (5 * rate.den) / rate.num]);
    await expect(
      change({
        do: 'addStringOut',
        name: 'None',
        found: { wanted: { query: 'no select' }, what: 'selects' },
      }),
    ).rejects.toThrow('None of these clips has a select.');
    await change({ do: 'removeStringOut', list: (await made())[0]!.id });
    await change({ do: 'addStringOut', name: 'All', found: { wanted: {}, what: 'clips' } });
    expect(await parts()).toHaveLength(30);
  });

  test('outside its clip, moved by somebody else, or split at its end: refused with the reason', async () => {
    await expect(
      change({ do: 'addStringOut', name: 'x', items: [{ clip: ids[0], from: 5, to: 5 }] }),
    ).rejects.toThrow('cannot be in a string-out: the out point is not after the in point.');
    await change({ do: 'addStringOut', name: 'x', items: [{ clip: ids[0], from: 1, to: 5 }] });
    const [part] = await parts();
    await expect(change({ do: 'splitInStringOut', item: part!.id, at: 5 })).rejects.toThrow(
      'between two of its frames',
    );
    await expect(
      change({ do: 'trimInStringOut', item: part!.id, from: 0, to: 4, was: { from: 0, to: 5 } }),
    ).rejects.toThrow('This part was trimmed meanwhile.');
  });

  test('a part is split in its place where there is no room between it and the next', async () => {
    const of = (n: number) => ({ clip: ids[n], from: 0, to: 6 });
    await change({ do: 'addStringOut', name: 'x', items: [of(0), of(1), of(2)] });
    const [first, second] = await parts();
    const { db } = s.runtime;
    await db.update(strung).set({ place: 1 }).where(eq(strung.id, first!.id));
    await db
      .update(strung)
      .set({ place: 1 + 1e-10 })
      .where(eq(strung.id, second!.id));
    await change({ do: 'splitInStringOut', item: first!.id, at: 2 });
    expect(await spans()).toEqual([
      [0, 0, 2],
      [0, 2, 6],
      [1, 0, 6],
      [2, 0, 6],
    ]);
  });

  test('many parts put in one place one after the other stay in order', async () => {
    await change({
      do: 'addStringOut',
      name: 'x',
      items: [
        { clip: ids[0], from: 0, to: 1 },
        { clip: ids[0], from: 5, to: 6 },
      ],
    });
    const list = (await made())[0]!.id;
    const last = (await parts())[1]!.id;
    for (let i = 0; i < 60; i++)
      await change({
        do: 'addToStringOut',
        list,
        items: [{ clip: ids[1 + (i % 20)], from: 0, to: 2 }],
        before: last,
      });
    const order = (await spans()).map(([clip]) => clip);
    expect(order).toEqual([0, ...Array.from({ length: 60 }, (_, i) => 1 + (i % 20)), 0]);
  });
});

describe('all ranges of a set', () => {
  test('in the order of their clips and beginnings, of some kinds or all, a page at a time', async () => {
    const order = await found('');
    const [one, two] = [order[3]!, order[8]!];
    const add = (clip: string, from: number, to: number, kind: string) =>
      change({ do: 'addRange', clip, from, to, kind, note: `${kind} ${from}` });
    await add(two, 0, 5, 'select');
    await add(one, 7, 10, 'select');
    await add(one, 2, 4, 'reject');
    await add(one, 5, 6, 'note');
    const { tiles } = await find('');
    const range = tiles.find((t) => t.id === one)!.ranges.find((r) => r.kind === 'select')!;
    await change({ do: 'addKeyword', clips: [one], range: range.id, name: 'turn' });
    const ask = (more: object) => findRanges(s.runtime, RangesQuery.parse(more));
    const all = await ask({});
    expect(all.parts.map((p) => [p.clip, p.note])).toEqual([
      [one, 'reject 2'],
      [one, 'note 5'],
      [one, 'select 7'],
      [two, 'select 0'],
    ]);
    expect(all).toMatchObject({ ranges: 4 });
    const [a, b] = [one, two].map((id) => tiles.find((t) => t.id === id)!.rate!);
    expect(all.seconds).toBeCloseTo(6 / fps(a!) + 5 / fps(b!), 9);
    const selects = await ask({ kinds: ['select'], offset: 1, limit: 1 });
    expect(selects).toMatchObject({ ranges: 2, parts: [{ clip: two, kind: 'select', media: 'video' }] });
    expect((await ask({ kinds: ['select'] })).parts[0]!.keywords).toEqual([await keywordId('turn')]);
    expect((await ask({ query: 'with reject', kinds: ['select'] })).parts.map((p) => p.clip)).toEqual([one]);
  });
});

describe('circled takes', () => {
  test('are ranges of their own kind, as long as the take is circled', async () => {
    const [take] = ids;
    await correctClips(s.runtime, { clips: [take!], set: [{ field: 'circled', value: 'yes' }] });
    const [tile] = (await find('circled is yes')).tiles;
    expect(tile).toMatchObject({ id: take, ranges: [{ kind: 'circled', from: 0, to: tile!.frames }] });
    // It is no finding of the checks, and nobody changes it.
    expect(await found('with finding')).toEqual([]);
    await expect(change({ do: 'removeRanges', ranges: [tile!.ranges[0]!.id] })).rejects.toThrow(/removed/);
    await change({ do: 'addStringOut', name: 'Good ones', found: { wanted: {}, what: 'selects' } });
    const [list] = (await view()).stringOuts;
    expect((await stringOutDetail(s.runtime, list!.id)).parts).toMatchObject([{ clip: take, from: 0 }]);
    await correctClips(s.runtime, { clips: [take!], set: [{ field: 'circled', value: 'no' }] });
    expect((await find('')).tiles.flatMap((t) => t.ranges)).toEqual([]);
  });
});

describe('what is found', () => {
  test('fields of the catalogue, what a person says, and sorting', async () => {
    expect(await found('rate over 29.97')).toHaveLength(10);
    expect(await found('rate is 29.97')).toHaveLength(10);
    await correctClips(s.runtime, { clips: ids.slice(0, 2), set: [{ field: 'scene', value: '12A' }] });
    expect(await found('scene is 12a')).toEqual(ids.slice(0, 2));
    const { tiles } = await find('', { sort: { by: 'rate', down: true } });
    const rates = tiles.map((t) => t.rate!.num / t.rate!.den);
    expect(rates).toEqual([...rates].sort((a, b) => b - a));
    expect(new Set(rates).size).toBe(3);
    await expect(found('', { sort: { by: 'nothing', down: false } })).rejects.toThrow('cannot be sorted');
  });

  test('in groups, a clip in each that it belongs to; a page of them', async () => {
    await change({ do: 'addKeyword', clips: ids.slice(0, 2), name: 'wheel' });
    await change({ do: 'addKeyword', clips: ids.slice(1, 3), name: 'gate' });
    const all = await find('', { by: 'keyword' });
    expect(all.groups).toEqual([
      { name: 'gate', clips: 2 },
      { name: 'wheel', clips: 2 },
      { name: '', clips: 27 },
    ]);
    expect(all.tiles.slice(0, 4).map((t) => t.id)).toEqual([ids[1], ids[2], ids[0], ids[1]]);
    const some = FindIds.parse({ by: 'keyword', offset: 1, limit: 3 });
    expect(await findIds(s.runtime, some)).toEqual([ids[2], ids[0], ids[1]]);
    const page = await find('', { by: 'keyword', offset: 2, limit: 3, lengths: true });
    expect(page.tiles).toEqual(all.tiles.slice(2, 5));
    expect(page.lengths).toEqual(all.tiles.map((t) => t.seconds));
  });

  test('what is not understood is refused with its place', async () => {
    await expect(find('rate over fast')).rejects.toMatchObject({
      message:
        'The search is not understood: “fast” is not a rate, as 25, or “edit” for that of the edit, for Frame rate.',
      about: { next: 'Look at “rate over fast”.' },
    });
  });

  test('saved searches stay true as clips come and go; as a file out and in', async () => {
    await change({ do: 'saveSearch', name: 'Slow', query: 'rate over 40' });
    await expect(change({ do: 'saveSearch', name: 'Slow', query: '' })).rejects.toThrow('already');
    await expect(change({ do: 'saveSearch', name: 'Bad', query: 'any(' })).rejects.toThrow(
      'The bracket is not closed.',
    );
    expect((await view()).searches).toMatchObject([{ name: 'Slow', clips: 10 }]);
    const file = await exportSearches(s.runtime);
    const taken = await takeSearches(s.runtime, file);
    expect((await view()).searches.map((x) => [x.name, x.query])).toEqual([
      ['Slow', 'rate over 40'],
      ['Slow 2', 'rate over 40'],
    ]);
    await undo(taken.undo);
    const slow = await found('rate over 40');
    await change({ do: 'addKeyword', clips: [slow[0], ids[0]], name: 'wheel' });
    await s.runtime.db.transaction((tx) => forgetClips(tx, s.runtime.job, [slow[0]!]));
    s.runtime.events.changed('clips');
    const now = await view();
    expect(now.searches).toMatchObject([{ name: 'Slow', clips: 9 }]);
    expect(now.clips).toBe(29);
    const left = await s.runtime.db.select().from(clips);
    expect(left).toHaveLength(29);
    expect(now.keywords[0]!.clips).toBe(new Set([slow[0], ids[0]]).size - 1);
  });
});
