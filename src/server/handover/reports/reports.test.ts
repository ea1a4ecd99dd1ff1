import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readFileSync, renameSync } from 'node:fs';
import path from 'node:path';
import { NewPackage, READY_FORMS, type ReportKind } from '../../../core/handover';
import { readCdl } from '../../../core/facts';
import { clipViews } from '../../cards';
import { changeChoice } from '../../choose';
import { beginJob } from '../../jobs';
import { addRoot } from '../../places';
import { parseXml } from '../../platform/media/xml';
import { makeClip, put, TEST_JOB, type TestShelf, testShelf } from '../../testing/media';
import { takeInCard } from '../../testing/takeInCard';
import { makeFilmstrip } from '../../viewing';
import { packageView } from '../packages/views';
import { sendPackage } from '../packages/send';
import { endReports, makeReport } from './make';

// Reports of real files, as pages and as PDFs, alone and in a package.

let s: TestShelf;
const ids = new Map<string, string>();
const LOOK = `<ColorCorrectionCollection xmlns="urn:ASC:CDL:v1.01"><ColorCorrection id="x"><SOPNode>
<Slope>1.02 1 0.93</Slope><Offset>0.01 0 -0.01</Offset><Power>1 1 1.02</Power></SOPNode>
<SatNode><Saturation>0.9</Saturation></SatNode></ColorCorrection></ColorCorrectionCollection>`;

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const clip = (name: string) => path.join(s.shelf, 'In', 'B001', 'CLIP', name);
  makeClip(clip('T0001.MP4'), { start: '14:22:05:00', frames: 10 });
  put(clip('T0001.cdl'), LOOK);
  makeClip(clip('T0002.MP4'), { start: '14:30:00:00', frames: 12 });
  makeClip(clip('T0004.MP4'), { start: '14:40:00:00', frames: 12 });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
  await makeFilmstrip(s.runtime, { subject: ids.get('T0001')!, signal: new AbortController().signal });
  await changeChoice(s.runtime, {
    do: 'addRange',
    clip: ids.get('T0002')!,
    kind: 'note',
    from: 5,
    to: 6,
    name: '',
    note: 'splash <b>',
  });
});
afterAll(async () => {
  await endReports();
  await s.close();
});

const page = async (kind: ReportKind): Promise<string> => {
  const { name, body } = await makeReport(s.runtime, { kind, set: { kind: 'job' } }, 'html');
  expect(name).toMatch(/^SLW .*\.html$/);
  return body as string;
};

test('the camera report has the picture that was made of a clip, and what was noted at which timecode', async () => {
  const html = await page('camera');
  expect(html.match(/src="data:image\/jpeg;base64,\/9j\//g)).toHaveLength(1);
  expect(html.match(/no picture/g)).toHaveLength(2);
  expect(html).toContain('14:30:00:05 splash &lt;b&gt;');
});

test('what is missing: a file that was moved away, a number that the card left out, copies that were never made', async () => {
  const file = path.join(s.shelf, 'In', 'B001', 'CLIP', 'T0002.MP4');
  renameSync(file, `${file}.away`);
  const html = await page('missing');
  renameSync(`${file}.away`, file);
  expect(html).toContain('Files that cannot be had now: 1 clip');
  expect(html).toContain('T0002.MP4: In/B001/CLIP/T0002.MP4 is no longer there');
  expect(html).toContain('T0003 is missing after T0002');
  expect(html).toContain('It was not copied here: no copy of it is known.');
  expect(await page('missing')).not.toContain('Files that cannot be had now');
});

test('of a card that was not copied here nothing is said of whether it may be wiped', async () => {
  expect(await page('wipe')).toContain('nothing is known of the card itself: B001');
});

test('a set that is gone, and one without clips', async () => {
  await expect(
    makeReport(s.runtime, { kind: 'sheet', set: { kind: 'bin', bin: 'gone' } }, 'pdf'),
  ).rejects.toThrow('This bin was removed meanwhile.');
  const none = await makeReport(
    s.runtime,
    { kind: 'sheet', set: { kind: 'search', query: 'name is no' } },
    'html',
  );
  expect(none.body).toContain('There is no picture among these clips.');
});

test('in a package they stand as PDFs, with the looks as one collection', async () => {
  const drive = path.join(s.dir, 'courier drive');
  mkdirSync(drive);
  const { id: root } = await addRoot(s.runtime, { kind: 'handover', path: drive });
  const { id } = await sendPackage(
    s.runtime,
    NewPackage.parse({
      set: { kind: 'card', card: 'B001' },
      form: { ...READY_FORMS[0]!, media: [], lists: ['cdl', 'camera', 'sheet', 'missing'] },
      ...{ to: '', root, folder: 'Lists' },
    }),
  );
  await s.runtime.queue.drainKind('handover');
  expect((await packageView(s.runtime, id)).sendings[0]).toMatchObject({ state: 'done', fault: null });
  const text = (name: string) =>
    execFileSync('pdftotext', ['-layout', path.join(drive, 'Lists', name), '-'], { encoding: 'utf8' });
  expect(text('Camera report.pdf')).toContain('14:30:00:05 splash <b>');
  expect(text('Contact sheet.pdf')).toMatch(/T0001\s+T0002\s+T0004/);
  expect(text('What is missing.pdf')).toContain('B001');
  const looks = readFileSync(path.join(drive, 'Lists', 'Looks.ccc'), 'utf8');
  expect(readCdl(parseXml(looks)!)).toEqual({
    ...{ id: 'T0001', slope: [1.02, 1, 0.93], offset: [0.01, 0, -0.01], power: [1, 1, 1.02] },
    saturation: 0.9,
  });
});
