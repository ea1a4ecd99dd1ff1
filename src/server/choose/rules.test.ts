import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals';
import { eq } from 'drizzle-orm';
import path from 'node:path';
import { Change, FindQuery } from '../../core/choose';
import type { Changed } from '../../core/platform/shapes';
import { clipViews } from '../cards';
import { forgetClips } from '../cards/clips';
import { files } from '../cards/tables';
import { correctClips } from '../facts';
import { saveSettings } from '../jobs';
import { jobs } from '../jobs/tables';
import { logView } from '../overview';
import { storeJobOfMany } from '../testing/manyClips';
import { type TestShelf, testShelf } from '../testing/media';
import { changeChoice, undoChoice } from './change';
import { chooseView, chosenClip, findClips } from './find';
import { folderLevels, followRules } from './followRules';
import { loadMarks, marksOf } from './marks';
import { ruleKeeper } from './ruleKeeper';
import { keyworded, keywordRules, keywords, ranges } from './tables';

let s: TestShelf;
let ids: string[];

beforeAll(async () => {
  s = await testShelf();
  await storeJobOfMany(s.runtime, path.join(s.dir, 'cards'), 30);
  ids = (await clipViews(s.runtime)).map((c) => c.id);
});
afterAll(() => s.close());
beforeEach(async () => {
  for (const table of [keywordRules, keywords, ranges]) await s.runtime.db.delete(table);
  s.runtime.events.changed('choose');
});

const change = async (c: object): Promise<Changed> => {
  const changed = await changeChoice(s.runtime, Change.parse(c));
  await expectHeld();
  return changed;
};
/** What is held in memory is as the database has it. */
async function expectHeld(): Promise<void> {
  const [held, loaded] = [await marksOf(s.runtime), await loadMarks(s.runtime)];
  const given = (of: typeof held) =>
    [...of.keyworded.values()]
      .flat()
      .map((k) => JSON.stringify([k.clip, k.keyword, k.by]))
      .sort();
  expect(given(held)).toEqual(given(loaded));
  expect([...held.withheld].sort()).toEqual([...loaded.withheld].sort());
  expect(held.keywords).toEqual(loaded.keywords);
}
const undo = (changed: Changed) => undoChoice(s.runtime, changed.undo!);
const found = async (query: string): Promise<string[]> =>
  (await findClips(s.runtime, FindQuery.parse({ query, limit: 500 }))).tiles.map((t) => t.id);
const words = async (): Promise<string[]> => (await chooseView(s.runtime)).keywords.map((k) => k.name);
const keywordId = async (name: string): Promise<string> =>
  (await chooseView(s.runtime)).keywords.find((k) => k.name === name)!.id;
const ruleId = async (at = 0): Promise<string> => (await chooseView(s.runtime)).rules[at]!.id;
const rule = (kind: string, more: object) => ({ do: 'addRule', rule: { kind, ...more } });

test('a rule gives its keyword to what a search finds, as clips come to fit and cease to', async () => {
  await saveSettings(s.runtime, { rate: { num: 25, den: 1 } });
  const fast = await found('rate over 25');
  expect(fast.length).toBeGreaterThan(2);
  expect(await found('rate over edit')).toEqual(fast);
  const added = await change(rule('search', { words: 'slow motion', query: 'rate over edit' }));
  expect(added.text).toBe('Keywords by a rule: slow motion where rate over edit');
  expect(await found('keyword is "slow motion"')).toEqual(fast);
  expect((await chooseView(s.runtime)).rules).toMatchObject([
    { says: 'slow motion where rate over edit', clips: fast.length, keywords: 1, fault: null },
  ]);
  expect((await logView(s.runtime)).entries[0]!.text).toBe(
    `By rules: keywords given to ${fast.length} clips`,
  );
  // It looks at marks, too; whoever makes one makes a clip fit.
  await change(rule('search', { words: 'good', query: 'with select' }));
  await change({ do: 'addRange', clip: ids[4], from: 0, to: 2, kind: 'select' });
  expect(await followRules(s.runtime)).toBe(1);
  expect(await found('keyword is good')).toEqual([ids[4]]);
  // Nothing is left to be done, and nothing is written.
  expect(await followRules(s.runtime)).toBe(0);
  await s.runtime.db.delete(ranges);
  s.runtime.events.changed('choose');
  expect(await followRules(s.runtime)).toBe(1);
  expect(await found('keyword is good')).toEqual([]);
  expect(await words()).not.toContain('good');
});

test('a rule that is changed or removed takes its own back and never a person’s; each is undone', async () => {
  await change({ do: 'addKeyword', clips: [ids[0], ids[1]], name: 'early' });
  const added = await change(rule('search', { words: 'Early', query: 'any(day is 1, day is 2)' }));
  const all = await found('any(day is 1, day is 2)');
  expect((await found('keyword is early')).length).toBe(all.length);
  expect((await chosenClip(s.runtime, all[5]!)).ruled).toEqual([await keywordId('early')]);
  expect((await chosenClip(s.runtime, ids[0]!)).ruled).toEqual([]);
  const was = { kind: 'search', words: 'Early', query: 'any(day is 1, day is 2)' };
  const edited = await change({
    do: 'editRule',
    rule: await ruleId(),
    was,
    set: { kind: 'search', words: 'morning', query: 'day is 1' },
  });
  expect((await found('keyword is early')).sort()).toEqual([ids[0]!, ids[1]!].sort());
  expect(await found('keyword is morning')).toEqual(await found('day is 1'));
  await undo(edited);
  expect((await found('keyword is early')).length).toBe(all.length);
  expect(await words()).toEqual(['early']);
  const removed = await change({ do: 'removeRule', rule: await ruleId() });
  expect((await found('keyword is early')).sort()).toEqual([ids[0]!, ids[1]!].sort());
  await undo(removed);
  expect((await found('keyword is early')).length).toBe(all.length);
  await undo(added);
  expect((await found('keyword is early')).sort()).toEqual([ids[0]!, ids[1]!].sort());
  // Of two who change it at once the second is told.
  await change(rule('search', { words: 'wheel', query: 'day is 1' }));
  await expect(
    change({
      do: 'editRule',
      rule: await ruleId(),
      was: { ...was, words: 'gate' },
      set: { kind: 'search', words: 'mill', query: 'wheel' },
    }),
  ).rejects.toThrow(/changed meanwhile/);
});

test('what a person takes from a clip no rule gives it again, until a person gives it', async () => {
  await change(rule('search', { words: 'first', query: 'day is 1' }));
  const [one, ...others] = await found('keyword is first');
  const keyword = await keywordId('first');
  const taken = await change({ do: 'takeKeyword', clips: [one], keyword });
  expect(await followRules(s.runtime)).toBe(0);
  expect(await found('keyword is first')).toEqual(others);
  await undo(taken);
  expect(await found('keyword is first')).toEqual([one, ...others]);
  await change({ do: 'takeKeyword', clips: [one], keyword });
  await change({ do: 'addKeyword', clips: [one], name: 'FIRST' });
  expect((await chosenClip(s.runtime, one!)).keywords).toEqual([keyword]);
  await followRules(s.runtime);
  expect(
    (await s.runtime.db.select().from(keyworded).where(eq(keyworded.clip, one!))).map((k) => k.by).sort(),
  ).toEqual(['person', await ruleId()].sort());
});

test('a keyword that was renamed, merged or removed stays so: its rules follow', async () => {
  for (const [i, scene] of ['3', '4', '5'].entries())
    await correctClips(s.runtime, {
      clips: ids.slice(i * 4, i * 4 + 4),
      set: [{ field: 'scene', value: scene }],
    });
  await change(rule('field', { field: 'scene', words: 'Scene' }));
  const scenes = (await words()).length;
  expect(scenes).toBe(3);
  const [first, second] = await words();
  expect(first).toMatch(/^Scene \d+$/);
  const had = await found(`keyword is "${first}"`);
  const named = { family: '', hotkey: null };
  await change({
    do: 'editKeyword',
    keyword: await keywordId(first!),
    set: { name: 'at the gate' },
    was: { name: first, ...named },
  });
  expect(await followRules(s.runtime)).toBe(0);
  expect(await found('keyword is "at the gate"')).toEqual(had);
  const with2 = await found(`keyword is "${second}"`);
  await change({
    do: 'mergeKeyword',
    keyword: await keywordId(second!),
    into: await keywordId('at the gate'),
  });
  expect(await followRules(s.runtime)).toBe(0);
  expect((await found('keyword is "at the gate"')).sort()).toEqual([...had, ...with2].sort());
  // Removed, it is left out; of a rule that has no other it is the end.
  const removed = await change({ do: 'removeKeyword', keyword: await keywordId('at the gate') });
  expect(removed.text).toMatch(/; its rule leaves it out$/);
  expect(await words()).not.toContain('at the gate');
  expect(await words()).not.toContain(first);
  expect((await words()).length).toBe(scenes - 2);
  await undo(removed);
  expect((await found('keyword is "at the gate"')).sort()).toEqual([...had, ...with2].sort());
  await change(rule('search', { words: 'wheel', query: 'day is 1' }));
  const gone = await change({ do: 'removeKeyword', keyword: await keywordId('wheel') });
  expect(gone.text).toMatch(/; the rule that gave it, too$/);
  expect((await chooseView(s.runtime)).rules.length).toBe(1);
});

test('from what fields state, one or several with semicolons', async () => {
  const [a, b] = ids;
  await correctClips(s.runtime, {
    clips: [a!],
    set: [{ field: 'subject', value: 'tide; low water ;tide' }],
  });
  await correctClips(s.runtime, { clips: [b!], set: [{ field: 'subject', value: 'Low Water' }] });
  await change(rule('field', { field: 'subject', without: 'tide' }));
  expect(await words()).toEqual(['low water']);
  expect((await found('keyword is "low water"')).sort()).toEqual([a, b].sort());
});

test('from the folders clips were taken in from, wherever they are now', async () => {
  const rows = await s.runtime.db.select().from(files).where(eq(files.role, 'original'));
  const at = (file: (typeof rows)[number], folder: string) =>
    s.runtime.db
      .update(files)
      .set({ takenPath: `${folder}/${file.id}.MOV` })
      .where(eq(files.id, file.id));
  for (const [i, file] of rows.entries())
    await at(file, i % 2 ? 'Harbour/Wheel/DCIM/100SLATE' : 'Harbour/Gate/DCIM/101SLATE');
  s.runtime.events.changed('clips');
  expect((await folderLevels(s.runtime)).slice(0, 2)).toEqual([
    { level: 1, names: ['Harbour'], more: 0 },
    { level: 2, names: ['Gate', 'Wheel'], more: 0 },
  ]);
  await change(rule('folders', {}));
  // What every card has says nothing.
  expect(await words()).toEqual(['Gate', 'Harbour', 'Wheel']);
  const was = { kind: 'folders' };
  await change({
    do: 'editRule',
    rule: await ruleId(),
    was,
    set: { kind: 'folders', levels: '2', without: 'gate' },
  });
  expect(await words()).toEqual(['Wheel']);
  expect((await found('keyword is wheel')).length).toBe(Math.floor(rows.length / 2));
});

test('rules that make no sense are refused, and one that is not understood any more leaves what it gave', async () => {
  await expect(change(rule('search', { words: '', query: 'wheel' }))).rejects.toThrow(
    /keyword of the rule is missing/,
  );
  await expect(change(rule('search', { words: 'a', query: ' ' }))).rejects.toThrow(/every clip/);
  await expect(change(rule('search', { words: 'a', query: 'rate over fast' }))).rejects.toThrow(
    /not understood/,
  );
  await expect(change(rule('field', { field: 'pair' }))).rejects.toThrow(/no field/);
  await change(rule('search', { words: 'wheel', query: 'day is 1' }));
  await expect(change(rule('search', { words: 'wheel', query: 'day is 1' }))).rejects.toThrow(/already/);
  const before = await found('keyword is wheel');
  expect(before.length).toBeGreaterThan(0);
  await s.runtime.db.update(keywordRules).set({ query: 'no such field is 3 (' });
  s.runtime.events.changed('choose');
  expect((await chooseView(s.runtime)).rules[0]!.fault).toMatch(/not understood/);
  expect(await followRules(s.runtime)).toBe(0);
  expect(await found('keyword is wheel')).toEqual(before);
});

test('a rule that would give more keywords than a person could look through is refused', async () => {
  for (const [i, clip] of ids.slice(0, 26).entries())
    await correctClips(s.runtime, {
      clips: [clip],
      set: [{ field: 'subject', value: Array.from({ length: 40 }, (_, k) => `w${i * 40 + k}`).join(';') }],
    });
  await expect(change(rule('field', { field: 'subject' }))).rejects.toThrow(/would give 1040 keywords/);
  expect(await words()).toEqual([]);
  // Those that come later are not too many by then.
  await correctClips(s.runtime, { clips: ids.slice(0, 2), set: [{ field: 'subject', value: '' }] });
  await change(rule('field', { field: 'subject' }));
  expect((await words()).length).toBe(960);
  await correctClips(s.runtime, { clips: ids.slice(0, 26), set: [{ field: 'subject', value: '' }] });
});

test('what rules give is looked at by no rule, and clips that are gone hinder nothing', async () => {
  await change(rule('search', { words: 'one', query: 'day is 1' }));
  await change(rule('search', { words: 'two', query: 'keyword is one' }));
  expect(await words()).toEqual(['one']);
  await change({ do: 'addKeyword', clips: [ids[7]], name: 'one' });
  await followRules(s.runtime);
  expect(await found('keyword is two')).toEqual([ids[7]]);
  await s.runtime.db.transaction((tx) => forgetClips(tx, s.runtime.job, [ids[7]!]));
  s.runtime.events.changed('clips');
  await followRules(s.runtime);
  expect(await words()).not.toContain('two');
});

test('rules are followed by themselves after a change, but not in a job that was archived', async () => {
  await change(rule('search', { words: 'good', query: 'with select' }));
  const keeper = ruleKeeper(s.runtime);
  keeper.begin();
  const select = async (clip: string) => {
    await change({ do: 'addRange', clip, from: 0, to: 2, kind: 'select' });
    // Events are gathered for a moment, and rules rest for one.
    await new Promise((done) => setTimeout(done, 2500));
  };
  try {
    await select(ids[2]!);
    expect(await found('keyword is good')).toEqual([ids[2]]);
    await s.runtime.db.update(jobs).set({ putAwayAt: new Date() });
    await select(ids[3]!);
    expect(await found('keyword is good')).toEqual([ids[2]]);
  } finally {
    await s.runtime.db.update(jobs).set({ putAwayAt: null });
    await keeper.end();
  }
  await select(ids[4]!);
  expect(await found('keyword is good')).toEqual([ids[2]]);
});
