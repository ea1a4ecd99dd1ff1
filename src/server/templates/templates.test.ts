import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { existsSync, mkdirSync, readdirSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { eq } from 'drizzle-orm';
import { NextSteps } from '../../core/next';
import { WatchOptions } from '../../core/watch';
import { Template, TemplateFile, TemplatePart } from '../../core/templates';
import { READY_TEMPLATES } from '../../core/templates/ready';
import { cameras } from '../cards/tables';
import { changeChoice, choiceSet } from '../choose';
import { saveFieldSet } from '../facts';
import { beginJob, jobByCode, saveSettings } from '../jobs';
import { jobs } from '../jobs/tables';
import { log } from '../logbook/tables';
import { addRoot, listRoots } from '../places';
import { TEST_JOB, testShelf, type TestShelf } from '../testing/media';
import { watchFolder, watchViews } from '../watch';
import { beginFromTemplate } from './begin';
import { dropTemplate, importTemplates, keepTemplate, templateById, templatesView } from './library';
import { previewParts, takeParts } from './take';

let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
  await beginJob(
    s.runtime,
    {
      name: 'Slack Water',
      code: 'SLW',
      zoneMinutes: 120,
      rate: { num: 25, den: 1 },
      cameras: [
        { label: 'A', model: 'Corvane C8' },
        { label: 'S', model: 'Lintel R4' },
      ],
    },
    TEST_JOB,
  );
});
afterAll(() => s.close());
const inJobOf = async (code: string) => s.runtime.inJob((await jobByCode(s.runtime, code)).id);

let kept: string;
test('what a job was told is kept as a template, without its places and footage', async () => {
  const far = await addRoot(s.runtime, { kind: 'shelf', path: folder('far') });
  const job = await jobByCode(s.runtime, 'SLW');
  await saveSettings(s.runtime, {
    dayStart: 6,
    convention: { ...job.convention, name: 'Ours' },
    folderPlan: {
      ...job.folderPlan,
      root: far.id,
      roles: { proxy: { folder: 'P', at: 'clip', root: far.id } },
      skeleton: ['{job}/Sound', '{job}/Exports'],
    },
    intake: {
      ...job.intake,
      leaveOut: ['Rushes'],
      folders: { [`${far.id}/x`]: { skipCardFolders: true, off: [] } },
    },
  });
  await changeChoice(s.runtime, { do: 'addBin', name: 'People', parent: null, clips: [] });
  const { bins } = await choiceSet(s.runtime.db, TEST_JOB);
  expect(bins).toHaveLength(1);
  await changeChoice(s.runtime, { do: 'saveSearch', name: 'Fast', query: 'rate over edit' });
  await saveFieldSet(s.runtime, { name: 'Sound desk', fields: ['length', 'rate'] });
  ({ id: kept } = await keepTemplate(s.runtime, { name: 'Mill', note: 'as on the last film' }));
  const t = await templateById(s.runtime, kept);
  expect(t).toMatchObject({
    name: 'Mill',
    zoneMinutes: 120,
    dayStart: 6,
    rate: { num: 25, den: 1 },
    cameras: [
      { label: 'A', model: 'Corvane C8' },
      { label: 'S', model: 'Lintel R4' },
    ],
    choice: { bins: [{ path: ['People'] }], searches: [{ name: 'Fast' }] },
    fieldSets: [{ name: 'Sound desk' }],
  });
  expect(t.intake).toMatchObject({ leaveOut: ['Rushes'], folders: {} });
  expect(JSON.stringify(t)).not.toContain(far.id);
  await expect(keepTemplate(s.runtime, { name: 'Mill' })).rejects.toMatchObject({ title: 'Clash' });
  await expect(keepTemplate(s.runtime, { name: READY_TEMPLATES[0]!.name })).rejects.toThrow(/always there/);
  await keepTemplate(s.runtime, { name: 'Mill', note: 'as on the last film', replace: true });
});
const folder = (...name: string[]): string => {
  mkdirSync(path.join(s.dir, ...name), { recursive: true });
  return realpathSync(path.join(s.dir, ...name));
};

test('a new job by it asks for name, code and folder only: it has all of it, and its folders are there', async () => {
  const own = folder('jobs', 'Ebb');
  expect(
    await beginFromTemplate(s.runtime, { name: 'Ebb', code: 'EBB', template: kept, folder: own }),
  ).toEqual({ code: 'EBB', root: expect.any(String), warnings: [] });
  expect(existsSync(path.join(own, 'EBB', 'Sound'))).toBe(true);
  expect(existsSync(path.join(own, 'EBB', 'Exports'))).toBe(true);
  const job = await jobByCode(s.runtime, 'EBB');
  const root = (await listRoots(s.runtime)).find((r) => r.path === own)!;
  expect(root.kind).toBe('shelf');
  expect(job).toMatchObject({
    zoneMinutes: 120,
    dayStart: 6,
    rate: { num: 25, den: 1 },
    convention: { name: 'Ours' },
    folderPlan: { root: root.id, skeleton: ['{job}/Sound', '{job}/Exports'] },
    intake: { leaveOut: ['Rushes'] },
  });
  expect(await choiceSet(s.runtime.db, job.id)).toEqual(await choiceSet(s.runtime.db, TEST_JOB));
  const labels = await s.runtime.db.select().from(cameras).where(eq(cameras.job, job.id));
  expect(labels.map((c) => c.label).sort()).toEqual(['A', 'S']);
  // Taken over, there is nothing more that it would change.
  const left = await previewParts(s.runtime.inJob(job.id), kept);
  expect(left.filter((p) => p.changes.length > 0)).toEqual([]);
});

test('each of those that ship begins a job', async () => {
  for (const [i, t] of READY_TEMPLATES.entries()) {
    const code = `T${i}`;
    const begun = await beginFromTemplate(s.runtime, {
      name: t.name,
      code,
      template: `ready ${t.name}`,
      folder: folder('ready', code),
    });
    expect(begun).toEqual({ code, root: expect.any(String), warnings: [] });
    const r = await inJobOf(code);
    const set = await choiceSet(r.db, r.job);
    expect(set.keywords.map((k) => k.name).sort()).toEqual(t.choice.keywords.map((k) => k.name).sort());
    expect(set.keywords.filter((k) => k.hotkey !== null)).toHaveLength(
      t.choice.keywords.filter((k) => k.hotkey !== null).length,
    );
    expect(set.bins.map((b) => b.path)).toEqual(expect.arrayContaining(t.choice.bins.map((b) => b.path)));
    expect(set.rules).toHaveLength(t.choice.rules.length);
    expect(readdirSync(path.join(s.dir, 'ready', code, code)).sort()).toEqual(
      t.folderPlan.skeleton.map((line) => line.replace('{job}/', '')).sort(),
    );
  }
});

test('a folder or a code that cannot be used begins nothing', async () => {
  const before = { jobs: await s.runtime.db.$count(jobs), roots: (await listRoots(s.runtime)).length };
  await expect(
    beginFromTemplate(s.runtime, {
      name: 'Again',
      code: 'ebb',
      template: kept,
      folder: folder('jobs', 'Again'),
    }),
  ).rejects.toMatchObject({ title: 'Clash' });
  await expect(
    beginFromTemplate(s.runtime, { name: 'In', code: 'IN', template: kept, folder: s.runtime.home }),
  ).rejects.toThrow(/own data/);
  await expect(
    beginFromTemplate(s.runtime, { name: 'No', code: 'NO', template: 'nowhere', folder: null }),
  ).rejects.toMatchObject({ title: 'Not found' });
  expect({ jobs: await s.runtime.db.$count(jobs), roots: (await listRoots(s.runtime)).length }).toEqual(
    before,
  );
});

test('what goes wrong with a part is said, and the job is there', async () => {
  const t = await templateById(s.runtime, kept);
  await importTemplates(s.runtime, {
    format: 'sort-shelf-templates',
    version: 1,
    templates: [
      {
        ...t,
        name: 'Odd',
        choice: { ...t.choice, searches: [{ name: 'Bad', query: 'nonsense (((' }] },
        folderPlan: { ...t.folderPlan, skeleton: ['{job}/CON', '{job}/Fine'] },
      },
    ],
  });
  const odd = (await templatesView(s.runtime)).find((x) => x.template.name === 'Odd')!;
  const begun = await beginFromTemplate(s.runtime, { name: 'Odd', code: 'ODD', template: odd.id });
  expect(begun.warnings).toEqual([
    expect.stringMatching(/^Not taken over from the template \(choice\): /),
    expect.stringMatching(/^Folders were not laid out: “ODD\/CON” cannot be a folder/),
  ]);
  expect(await jobByCode(s.runtime, 'ODD')).toMatchObject({ convention: { name: 'Ours' } });
  await dropTemplate(s.runtime, odd.id);
});

describe('parts of a template in a running job', () => {
  test('what would change is shown first; only what is chosen changes, and what the job has stays', async () => {
    await beginJob(s.runtime, { name: 'Flood', code: 'FLD', cameras: [{ label: 'A', model: 'Tarn T5' }] });
    const r = await inJobOf('FLD');
    await changeChoice(r, { do: 'addBin', name: 'People', parent: null, clips: [] });
    const shown = new Map((await previewParts(r, kept)).map((p) => [p.part, p.changes]));
    expect(shown.get('naming')).toContainEqual(expect.stringContaining('becomes “Ours” of the template'));
    expect(shown.get('cameras')).toEqual(['1 camera added: S']);
    expect(shown.get('choice')).toEqual(['1 search added: Fast']);
    expect(shown.get('days')).toContain('a day begins at 6:00, not at 4:00');
    expect(shown.get('proxies')).toEqual([]);
    expect(shown.get('library')).toEqual([]);
    const t = await templateById(r, kept);
    const done = await takeParts(r, t, ['cameras', 'choice']);
    expect(done).toEqual([
      { part: 'cameras', changes: ['1 camera added: S'] },
      { part: 'choice', changes: ['1 search added: Fast'] },
    ]);
    const job = await jobByCode(r, 'FLD');
    expect(job).toMatchObject({ dayStart: 4, convention: { name: 'Picture' } });
    const rows = await r.db.select().from(cameras).where(eq(cameras.job, job.id));
    expect(rows.map((c) => [c.label, c.model]).sort()).toEqual([
      ['A', 'Tarn T5'],
      ['S', 'Lintel R4'],
    ]);
    expect((await r.db.select().from(log).where(eq(log.job, job.id))).map((l) => l.text)).toContainEqual(
      'Took over from the template Mill: 1 camera added: S; 1 search added: Fast',
    );
    // Again there is nothing to do.
    expect(await takeParts(r, t, ['cameras', 'choice'])).toEqual([]);
  });

  test('its places stay, whatever the plan of the template', async () => {
    const r = await inJobOf('FLD');
    const job = await jobByCode(r, 'FLD');
    const mine = await addRoot(r, { kind: 'shelf', path: folder('mine') });
    await saveSettings(r, { folderPlan: { ...job.folderPlan, root: mine.id } });
    await takeParts(r, await templateById(r, kept), [...TemplatePart.options]);
    expect(await jobByCode(r, 'FLD')).toMatchObject({
      dayStart: 6,
      convention: { name: 'Ours' },
      folderPlan: { root: mine.id, skeleton: ['{job}/Sound', '{job}/Exports'] },
    });
  });
});

test('watched folders of the job’s own place come along, and are watched at once in the next', async () => {
  const r = await inJobOf('EBB');
  const { folderPlan } = await jobByCode(r, 'EBB');
  const own = (await listRoots(r)).find((x) => x.id === folderPlan.root)!;
  const elsewhere = await addRoot(r, { kind: 'source', path: folder('elsewhere') });
  mkdirSync(path.join(own.path, 'EBB', 'New', 'Sound'), { recursive: true });
  const next = NextSteps.parse({ placing: 'name', proxies: true, keywords: ['Fresh'] });
  await watchFolder(r, { root: own.id, path: 'EBB/New/Sound', options: { bins: false, next } });
  await watchFolder(r, { root: elsewhere.id, path: '' });
  const { id } = await keepTemplate(r, { name: 'Watching' });
  const t = await templateById(r, id);
  expect(t.watches).toEqual([
    { path: '{job}/New/Sound', options: WatchOptions.parse({ bins: false, next }) },
  ]);
  expect((await previewParts(r, id)).find((p) => p.part === 'watches')!.changes).toEqual([]);
  const place = folder('jobs', 'Neap');
  const begun = await beginFromTemplate(s.runtime, {
    name: 'Neap',
    code: 'NEA',
    template: id,
    folder: place,
  });
  expect(begun).toEqual({ code: 'NEA', root: expect.any(String), warnings: [] });
  expect(existsSync(path.join(place, 'NEA', 'New', 'Sound'))).toBe(true);
  const [watch] = await watchViews(await inJobOf('NEA'));
  expect(watch).toMatchObject({ path: 'NEA/New/Sound', options: { bins: false, next } });
  // In a running job, shown first; a folder that cannot be one is refused.
  const fld = await inJobOf('FLD');
  expect((await previewParts(fld, id)).find((p) => p.part === 'watches')!.changes).toEqual([
    '1 folder watched from now on: FLD/New/Sound',
  ]);
  await takeParts(fld, t, ['watches']);
  expect((await watchViews(fld)).map((w) => w.path)).toEqual(['FLD/New/Sound']);
  await expect(
    takeParts(fld, { ...t, watches: [{ path: '{job}/CON', options: WatchOptions.parse({}) }] }, ['watches']),
  ).rejects.toThrow(/cannot be a folder/);
  expect(
    Template.safeParse({ ...t, watches: [{ path: '{day}/x', options: WatchOptions.parse({}) }] }).success,
  ).toBe(false);
});

describe('templates as a file', () => {
  test('what is written is read again as it was; one whose name is taken gets a number', async () => {
    const t = await templateById(s.runtime, kept);
    const file = { format: 'sort-shelf-templates', version: 1, templates: [t] };
    const read = TemplateFile.parse(JSON.parse(JSON.stringify(file)));
    expect(read.templates[0]).toEqual(t);
    expect(await importTemplates(s.runtime, read)).toEqual({ added: ['Mill 2'] });
    expect(await importTemplates(s.runtime, { ...read, templates: [READY_TEMPLATES[0]!] })).toEqual({
      added: [],
    });
  });

  test('a damaged, hostile or newer one is refused as a whole, with the reason', () => {
    const t = JSON.parse(JSON.stringify(READY_TEMPLATES[0])) as Record<string, unknown>;
    const file = (change: object, version = 1) =>
      TemplateFile.safeParse({ format: 'sort-shelf-templates', version, templates: [{ ...t, ...change }] });
    expect(file({}).success).toBe(true);
    expect(file({}, 2).error?.issues[0]?.message).toBe('it was written by a newer version of Sort Shelf');
    for (const change of [
      { name: '' },
      { name: 'x'.repeat(81) },
      { dayStart: 25 },
      { folderPlan: { ...(t.folderPlan as object), skeleton: ['{nobody}/x'] } },
      { folderPlan: { ...(t.folderPlan as object), skeleton: Array.from({ length: 201 }, () => 'x') } },
      { choice: { bins: [{ path: [] }] } },
      { choice: { keywords: [{ name: '\u0000' }] } },
      { cameras: [{ label: '../x', model: null }] },
      { intake: { shapes: [{ id: 1 }] } },
    ])
      expect(file(change).success).toBe(false);
  });

  test('places it names are left out', () => {
    const t = READY_TEMPLATES[0]!;
    const read = Template.parse({
      ...t,
      folderPlan: {
        ...t.folderPlan,
        root: 'elsewhere',
        roles: { proxy: { folder: '', at: 'top', root: 'x' } },
      },
      intake: { ...t.intake, folders: { 'elsewhere/a': { skipCardFolders: true, off: [] } } },
    });
    expect(read.folderPlan).toMatchObject({ root: null, roles: { proxy: { root: null } } });
    expect(read.intake.folders).toEqual({});
  });
});
