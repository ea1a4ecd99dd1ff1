import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { checkName } from './check';
import { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, newBlock } from './convention';
import { type NamingClip, renderNames, shootingOrder } from './render';

const clip = (id: string, extra: Partial<NamingClip> = {}): NamingClip => ({
  id,
  job: 'SLW',
  day: 1,
  date: '2026-05-05',
  camera: 'B',
  card: 'B001',
  rate: rate(25),
  original: id,
  recordedAt: null,
  startFrame: null,
  ...extra,
});
const convention = (...blocks: Convention['blocks']): Convention => ({ name: 'x', separator: '_', blocks });
const stems = (c: Convention, clips: NamingClip[]) =>
  renderNames(c, DEFAULT_FOLDER_PLAN, clips).map((r) => r.stem);

describe('rendering', () => {
  test('every kind of block', () => {
    const all = convention(
      ...(['job', 'day', 'date', 'camera', 'card', 'rate', 'words', 'original', 'counter'] as const).map(
        (k) => newBlock(k, k),
      ),
    );
    expect(stems(all, [clip('T0009', { rate: rate(30000, 1001) })])).toEqual([
      'SLW_D1_20260505_B_B001_2997p_words_0009_001',
    ]);
    expect(Convention.parse(all)).toEqual(all);
  });

  test('name and place by the first convention', () => {
    const [r] = renderNames(DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, [clip('T0001')]);
    expect(r).toMatchObject({
      stem: 'SLW_D1_B001_001_25p',
      folder: 'SLW/D1_2026-05-05/B/B001',
      problems: [],
    });
    expect(r!.parts.map((p) => p.blockId)).toEqual(['job', 'day', 'card', 'counter', 'rate']);
  });

  test('the counter runs in shooting order and starts again by its scope', () => {
    const clips = [
      clip('T0002', { recordedAt: '2026-05-05T10:00:00' }),
      clip('T0001', { recordedAt: '2026-05-05T11:00:00' }),
      clip('T0001b', { day: 2, card: 'B002', recordedAt: '2026-05-06T09:00:00' }),
      clip('A1', { camera: 'A', card: 'A001', recordedAt: '2026-05-05T09:00:00' }),
    ];
    const counter = (
      scope: 'job' | 'day' | 'camera' | 'dayAndCamera' | 'card',
      orderBy: 'recorded' | 'cameraName' = 'recorded',
    ) =>
      stems(
        convention({ ...newBlock('counter', 'c'), scope, orderBy } as Convention['blocks'][number]),
        clips,
      );
    expect(counter('dayAndCamera')).toEqual(['001', '002', '001', '001']);
    expect(counter('dayAndCamera', 'cameraName')).toEqual(['002', '001', '001', '001']);
    expect(counter('job')).toEqual(['002', '003', '004', '001']);
    expect(counter('camera')).toEqual(['001', '002', '003', '001']);
    expect(counter('day')).toEqual(['002', '003', '001', '001']);
    expect(counter('card')).toEqual(['001', '002', '001', '001']);
  });

  test('clips of one second go by timecode, then by the number in their name', () => {
    const same = { recordedAt: '2026-05-05T10:00:00' };
    const order = [
      clip('T10', { ...same }),
      clip('T9', { ...same }),
      clip('T11', { ...same, startFrame: -1 }),
    ].sort(shootingOrder);
    expect(order.map((c) => c.id)).toEqual(['T11', 'T9', 'T10']);
  });

  test('a fact that is not known leaves its block out and says so', () => {
    const [r] = renderNames(
      convention(newBlock('card', 'c'), newBlock('rate', 'r'), newBlock('original', 'o')),
      DEFAULT_FOLDER_PLAN,
      [clip('wheel', { rate: null })],
    );
    expect(r!.stem).toBe('B001');
    expect(r!.problems.map((p) => p.text)).toEqual([
      'the frame rate is not known',
      'the camera name has no number',
    ]);
    expect(
      renderNames(DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, [clip('x', { date: null, day: null })])[0]!.folder,
    ).toBe('SLW/no-day/B/B001');
  });

  test('numbers outgrow their digits rather than repeat', () => {
    const c = convention({
      ...newBlock('counter', 'c'),
      digits: 1,
      start: 9,
    } as Convention['blocks'][number]);
    expect(stems(c, [clip('T1'), clip('T2')])).toEqual(['9', '10']);
  });
});

describe('names that do not travel', () => {
  test.each([
    ['a/b', 'illegal'],
    ['a:b', 'illegal'],
    ['what?', 'illegal'],
    ['two\nlines', 'illegal'],
    ['', 'empty'],
    ['  ', 'empty'],
    ['.hidden', 'edge'],
    ['end.', 'edge'],
    ['end ', 'edge'],
    ['CON', 'device'],
    ['lpt1.x', 'device'],
    ['x'.repeat(231), 'long'],
    ['…'.repeat(80), 'long'],
    ['-rf', 'dash'],
    ['a\uf7e9b', 'unseen'],
    ['a\ue000b', 'unseen'],
    ['a\u{10ffff}b', 'unseen'],
    ['a\u202egpj', 'unseen'],
    ['a\ud800b', 'unseen'],
  ])('%j', (name, code) => expect(checkName(name).map((p) => p.code)).toContain(code));

  test.each(['SLW_D1_B001_001_25p', 'wheel 🌊', 'Mühle', 'console', `it's`])('%j is fine', (name) =>
    expect(checkName(name)).toEqual([]),
  );
});
