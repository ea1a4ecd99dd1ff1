import { describe, expect, test } from '@jest/globals';
import { cameraNumber, counterGaps, counterRuns } from './counter';
import { asCameraLabel, CameraLabel } from '../platform/cameraLabel';
import { type KnownJob, suggestCard } from './suggest';
import { matchBySuffix } from './suffix';

describe('matchBySuffix', () => {
  test('works the suffix out from what most names agree on', () => {
    const r = matchBySuffix(['T0001', 'T0002', 'T0010', 'T001'], ['T0001_px', 'T0002_px', 'T0010_px']);
    expect(r.rule).toBe('_px');
    expect([...r.matches.values()].map((m) => m.stem)).toEqual(['T0001', 'T0002', 'T0010']);
  });

  test('reads a doubled extension and ignores case', () => {
    const r = matchBySuffix(['T0001', 'T0002'], ['t0001_px', 'T0002_px.MP4']);
    expect(r.matches.get('T0002_px.MP4')).toEqual({ stem: 'T0002', suffix: '_px' });
    expect(r.matches.get('t0001_px')?.stem).toBe('T0001');
  });

  test('does not take a longer number for a suffix', () => {
    const r = matchBySuffix(['T0001', 'T0002'], ['T0001', 'T0002', 'T00019']);
    expect(r.rule).toBe('');
    expect(r.matches.has('T00019')).toBe(false);
  });

  test('has no rule where nothing matches', () => {
    expect(matchBySuffix(['A'], ['B'])).toEqual({ matches: new Map(), rule: null });
  });
});

describe('counters', () => {
  test('the camera number is the last run of digits', () => {
    expect(cameraNumber('A001_C004')?.digits).toBe('004');
    expect(cameraNumber('T0009')?.value).toBe(9);
    expect(cameraNumber('wheel')).toBeNull();
  });

  test('gaps are said with the names that are missing', () => {
    expect(counterGaps(['T0001', 'T0002', 'T0005', 'T0007'])).toEqual([
      { from: 'T0003', to: 'T0004', count: 2, after: 'T0002' },
      { from: 'T0006', to: 'T0006', count: 1, after: 'T0005' },
    ]);
    expect(counterGaps(['T0003', 'T0001', 'T0002'])).toEqual([]);
    expect(counterGaps(['T0001', 'T9000'])).toEqual([]);
    expect(counterGaps(['A001_C001', 'A002_C009'])).toEqual([]);
  });
});

describe('suggestCard', () => {
  const job = {
    cameras: [
      { label: 'A', model: 'Corvane C8', serials: [] },
      { label: 'B', model: 'Tarn T5', serials: ['T5-00417'] },
    ],
    cardIds: ['B001'],
    days: [{ number: 1, date: '2026-05-05' }],
    counters: [],
  };

  test('the folder name decides, and its reason is said', () => {
    const s = suggestCard(job, {
      folders: ['Offloaded', 'Day 2', 'B002'],
      model: null,
      serial: null,
      date: '2026-05-06',
      runs: [],
    });
    expect([s.camera.value, s.cardId.value, s.day.value]).toEqual(['B', 'B002', 2]);
    expect(s.camera.because).toContain('B002');
  });

  test('else the model, and the next free id', () => {
    const s = suggestCard(job, {
      folders: ['card'],
      model: 'tarn t5',
      serial: 'T5-00417',
      date: '2026-05-05',
      runs: [],
    });
    expect([s.camera.value, s.cardId.value, s.day.value]).toEqual(['B', 'B002', 1]);
  });

  test('an id already used is not offered again', () => {
    expect(
      suggestCard(job, { folders: ['B001'], model: null, serial: null, date: null, runs: [] }).cardId,
    ).toEqual({ value: 'B002', because: 'B001 is taken: the next free one' });
  });

  test('days follow the calendar, whatever order the cards come in', () => {
    const late = suggestCard(
      { ...job, days: [{ number: 1, date: '2026-05-06' }] },
      { folders: ['x'], model: null, serial: null, date: '2026-05-05', runs: [] },
    );
    expect(late.day.value).toBe(2);
    expect(
      suggestCard(job, { folders: ['x'], model: null, serial: null, date: '2026-05-07', runs: [] }).day.value,
    ).toBe(3);
    expect(
      suggestCard(
        { ...job, days: [] },
        { folders: ['x'], model: null, serial: null, date: '2026-05-07', runs: [] },
      ).day.value,
    ).toBe(1);
  });

  describe('the camera’s own numbers', () => {
    const counted = (card: string, ...stems: string[]) => ({
      card,
      camera: card[0]!,
      runs: counterRuns(stems),
    });
    const with2 = {
      ...job,
      cardIds: ['B001', 'B003'],
      counters: [counted('B001', 'T0009', 'T0001'), counted('B003', 'T0021', 'T0030')],
    };
    const offered = (of: KnownJob, stems: string[], model: string | null = null) => {
      const s = suggestCard(of, {
        folders: ['x'],
        model,
        serial: null,
        date: null,
        runs: counterRuns(stems),
      });
      return [s.camera.value, s.cardId.value, s.camera.because, s.cardId.because];
    };

    test('that go on after a card’s last tell the camera and the next id', () => {
      expect(offered(with2, ['T0031', 'T0035'])).toEqual([
        'B',
        'B004',
        'its numbers go on after T0030, the last of B003',
        'its numbers come after T0030, the last of B003',
      ]);
    });

    test('that lie between two cards’ tell the id between them, also with some missing', () => {
      expect(offered(with2, ['T0012', 'T0018'], 'Tarn T5').slice(0, 2)).toEqual(['B', 'B002']);
      expect(offered({ ...with2, cardIds: ['B001', 'B002', 'B003'] }, ['T0012'], 'Tarn T5').slice(1)).toEqual(
        ['B004', 'camera B is a Tarn T5', 'the next free one'],
      );
    });

    test('that begin anew on every card, are far off or of another pattern, tell nothing', () => {
      expect(offered(with2, ['T0005', 'T0012'])[0]).toBe('C');
      expect(offered(with2, ['T0900'], 'Tarn T5')[3]).toBe('the next free one');
      expect(offered(with2, ['S0031'])[0]).toBe('C');
    });
  });

  test('cameras are called by one to four letters or digits, and their cards after them', () => {
    const of = {
      ...job,
      cameras: [
        ...job.cameras,
        { label: 'DRN', model: null, serials: [] },
        { label: '2', model: null, serials: [] },
      ],
    };
    const said = (folder: string) => {
      const s = suggestCard(of, { folders: [folder], model: null, serial: null, date: null, runs: [] });
      return [s.camera.value, s.cardId.value];
    };
    expect(said('DRN004')).toEqual(['DRN', 'DRN004']);
    expect(said('CAM 2')).toEqual(['2', '2001']);
    // A year is no card of camera 2, and a word no camera that is not known.
    expect(said('2026')).toEqual(['C', 'C001']);
    expect(said('MOV004')).toEqual(['C', 'C001']);
    const all = [...'ABCDEFGHIJKLMNOPQRSTUVWXYZ'].map((label) => ({ label, model: null, serials: [] }));
    expect(
      suggestCard(
        { ...job, cameras: all },
        { folders: ['x'], model: null, serial: null, date: null, runs: [] },
      ).camera.value,
    ).toBe('AA');
    expect(['A', 'B2', 'DRON', '12'].every((l) => CameraLabel.safeParse(l).success)).toBe(true);
    expect(['', 'a', 'ABCDE', 'A-1', 'Ä'].some((l) => CameraLabel.safeParse(l).success)).toBe(false);
    expect(asCameraLabel(' drone ')).toBe('DRON');
  });

  test('nothing known is said so', () => {
    const s = suggestCard(
      { cameras: [], cardIds: [], days: [], counters: [] },
      { folders: [], model: null, serial: null, date: null, runs: [] },
    );
    expect([s.camera.value, s.cardId.value, s.day.value]).toEqual(['A', 'A001', 1]);
    expect(s.day.because).toContain('please check');
  });
});
