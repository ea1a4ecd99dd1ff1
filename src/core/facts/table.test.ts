import { describe, expect, test } from '@jest/globals';
import { parse } from 'csv-parse/sync';
import { factsCsv, factsJson, statedFields } from './factFiles';
import { type Rate, rate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import { fieldOf, FIELDS, FieldGroup, type FieldId, Said, type Statement, Trust, trustOf } from './catalogue';
import { commonRate, type Facts, factsOf, findings } from './facts';
import { FieldSet, FieldSetFile, SHIPPED_SETS } from './fieldSets';
import { FactFile } from './shapes';
import { fileStatements, heading, plainValue, showFact, statedRows } from './table';
import type { Value } from './values';

const says = (field: FieldId, value: Value, source: Statement['source'] = 'container'): Statement => ({
  field,
  value,
  source,
});
const show = (facts: Facts) => Object.fromEntries([...facts].map(([id, f]) => [id, showFact(f)]));
const moment = (local: string): Value => ({ type: 'moment', moment: { local, offset: 0 } });
const fps = (n: number, d = 1): Value => ({ type: 'rate', rate: rate(n, d) });

describe('the catalogue', () => {
  test('some ninety fields, each with a term, a meaning and who may state it, in every group', () => {
    expect(FIELDS.length).toBeGreaterThanOrEqual(80);
    expect(new Set(FIELDS.map((f) => f.id)).size).toBe(FIELDS.length);
    for (const f of FIELDS)
      expect([f.term.length > 0, f.meaning.length > 9, f.trust.length > 0]).toEqual([true, true, true]);
    expect(FieldGroup.options.every((g) => FIELDS.some((f) => f.group === g))).toBe(true);
  });

  test('the person’s order of trust goes first, the shipped one behind it', () => {
    expect(trustOf('model', { model: ['name'] })).toEqual([
      'name',
      ...fieldOf('model').trust.filter((s) => s !== 'name'),
    ]);
    expect(Trust.safeParse({ model: ['nobody'] }).success).toBe(false);
    const two = [
      says('model', { type: 'text', text: 'C8' }, 'sidecar'),
      says('model', { type: 'text', text: 'C9' }, 'tags'),
    ];
    expect(factsOf(two).get('model')!.chosen.source).toBe('sidecar');
    expect(factsOf(two, { trust: { model: ['tags'] } }).get('model')!.chosen.source).toBe('tags');
    expect(findings(factsOf(two))).toMatchObject([
      {
        code: 'factDisagrees',
        field: 'model',
        text: 'Model: the camera tags says C9, the sidecar C8. The sidecar is used.',
      },
    ]);
  });

  test('a source states a field once; another type than the field’s, control signs and emptiness are nothing', () => {
    const said = new Said('tags')
      .text('model', 'C8')
      .text('model', 'C9')
      .text('reel', '\u0000\u0007 ')
      .count('iso', NaN)
      .number('aperture', Infinity)
      .shutter(0)
      .value('iso', { type: 'text', text: '800' });
    expect(said.statements).toEqual([says('model', { type: 'text', text: 'C8' }, 'tags')]);
  });
});

describe('facts as the job sees them', () => {
  const clip = [
    says('rate', fps(100)),
    says('frames', { type: 'count', count: 400 }),
    says('recordedAt', moment('2026-05-06T09:44:38')),
    says('start', { type: 'timecode', timecode: parseTimecode('09:44:38:00', rate(100))! }, 'clock'),
  ];

  test('end, running time and speed are worked out', () => {
    expect(show(factsOf(clip, { jobRate: rate(25) }))).toMatchObject({
      end: ['09:44:42:00', expect.anything(), 'workedOut'],
      length: ['4 s', 4, 'workedOut'],
      speed: ['25%', 25, 'workedOut'],
    });
    expect(factsOf([...clip, says('baseRate', fps(50), 'sidecar')]).get('speed')!.chosen.value).toEqual({
      type: 'number',
      number: 50,
    });
    expect(
      factsOf([says('rate', fps(25)), says('sensorRate', fps(100), 'sidecar')]).get('speed')!.chosen.value,
    ).toEqual({ type: 'number', number: 25 });
  });

  test('a clock that was put right moves recorded time and its stand-in, never a timecode of the file; what was read stays', () => {
    const right = factsOf(clip, { clockSeconds: 3600 });
    expect(right.get('recordedAt')).toMatchObject({
      chosen: { source: 'correction', value: moment('2026-05-06T10:44:38') },
      others: [{ source: 'container', value: moment('2026-05-06T09:44:38') }],
    });
    expect(show(right).start![0]).toBe('10:44:38:00');
    const track = says(
      'start',
      { type: 'timecode', timecode: parseTimecode('09:44:38:00', rate(100))! },
      'timecodeTrack',
    );
    expect(show(factsOf([...clip.slice(0, 3), track], { clockSeconds: 3600 })).start![0]).toBe('09:44:38:00');
    expect(
      factsOf([...clip, says('recordedAt', moment('2026-05-06T11:00:00'), 'person')], {
        clockSeconds: 3600,
      }).get('recordedAt')!.chosen.source,
    ).toBe('person');
  });

  test('midnight and foreign rates are findings; whole multiples of the job’s rate are not', () => {
    const night = [
      says('rate', fps(25)),
      says('frames', { type: 'count', count: 500 }),
      says('start', { type: 'timecode', timecode: parseTimecode('23:59:50:00', rate(25))! }, 'timecodeTrack'),
    ];
    expect(findings(factsOf(night)).map((f) => f.code)).toEqual(['midnight']);
    const track = says(
      'start',
      { type: 'timecode', timecode: parseTimecode('10:00:00:00', rate(25))! },
      'timecodeTrack',
    );
    expect(
      findings(factsOf([says('rate', fps(30000, 1001)), track]), { jobRate: rate(25) }).map((f) => f.code),
    ).toEqual(['rateForeign']);
    expect(findings(factsOf([says('rate', fps(100)), track]), { jobRate: rate(25) })).toEqual([]);
  });

  test('stills miss no timecode, and a name that looks otherwise contradicts nothing', () => {
    expect(
      findings(factsOf([says('rate', fps(25), 'setting'), says('frames', { type: 'count', count: 23 })])),
    ).toEqual([]);
    expect(
      findings(
        factsOf([
          says('reel', { type: 'text', text: '260505' }, 'ixml'),
          says('reel', { type: 'text', text: 'S001' }, 'name'),
        ]),
      ),
    ).toEqual([]);
  });

  test('the rate most clips have or are a multiple of', () => {
    const of = (...rates: (Rate | [Rate, number])[]) =>
      rates.map((r) => (Array.isArray(r) ? { rate: r[0], seconds: r[1] } : { rate: r, seconds: 10 }));
    expect(commonRate(of(...[25, 50, 100, 25].map((n) => rate(n))))).toEqual(rate(25));
    expect(commonRate(of(rate(25), rate(25), rate(30000, 1001), rate(30000, 1001)))).toBeNull();
    expect(commonRate(of(rate(25)))).toBeNull();
    // A short clip decides nothing, nor does a rate that nobody edits at; all rates are multiples of a very slow one.
    expect(commonRate(of([rate(50), 600], [rate(50), 500], [rate(25), 4]))).toEqual(rate(50));
    expect(commonRate(of(rate(1, 512), rate(1, 3), rate(25), rate(25), rate(2000)))).toEqual(rate(25));
    expect(commonRate(of([rate(25), 10], [rate(24), 500], [rate(24), 500]))).toEqual(rate(24));
  });
});

test('what stands on disk', () => {
  const f = factsOf(
    fileStatements({
      path: 'SLW/Day 2/T0001.MP4',
      original: 'T0001',
      bytes: 5e9,
      files: 3,
      modified: Date.parse('2026-05-06T14:22:05Z'),
      zoneMinutes: 60,
    }),
  );
  expect(Object.fromEntries([...f].map(([k, v]) => [k, showFact(v)[0]]))).toEqual({
    fileName: 'T0001.MP4',
    cameraFile: 'T0001',
    folder: 'SLW/Day 2',
    size: '5000000000 B',
    files: '3',
    fileTime: '2026-05-06 15:22:05',
  });
});

test('who states what: by all, some or none of a camera’s clips', () => {
  const rows = statedRows(
    [
      { label: 'A', clips: 2 },
      { label: 'B', clips: 1 },
    ],
    [
      { camera: 'A', field: 'model', stated: 1, sources: ['tags'] },
      { camera: 'A', field: 'rate', stated: 2, sources: ['container'] },
    ],
  );
  expect(rows).toEqual([
    {
      field: 'rate',
      cells: { A: { stated: 2, of: 2, sources: ['container'] }, B: { stated: 0, of: 1, sources: [] } },
    },
    {
      field: 'model',
      cells: { A: { stated: 1, of: 2, sources: ['tags'] }, B: { stated: 0, of: 1, sources: [] } },
    },
  ]);
});

describe('files of facts', () => {
  const statements = [
    says('rate', fps(30000, 1001)),
    says('comment', { type: 'text', text: '=HYPERLINK("x")' }, 'tags'),
    says('longitude', { type: 'number', number: -32.1 }, 'tags'),
    says('shutter', { type: 'fraction', num: 1, den: 50 }, 'tags'),
    says('slope', { type: 'triple', triple: [1, 1, 0.9] }, 'look'),
    says('description', { type: 'text', text: 'wheel, "slow"\nturning' }, 'bext'),
  ];
  const clips = [{ name: '-T0001', card: 'B002', statements, facts: factsOf(statements), notes: [] }];

  test('CSV (RFC 4180): quoted where it must be, no formulas, units in the headings, numbers bare', () => {
    const csv = factsCsv(clips, ['rate', 'comment', 'longitude', 'shutter', 'slope', 'description', 'model']);
    expect(csv).toBe(
      '\ufeffClip,Card,Frame rate,Comment,Longitude (°),Shutter (s),Slope,Description,Model\r\n\'-T0001,B002,30000/1001,"\'=HYPERLINK(""x"")",-32.1,1/50,1 1 0.9,"wheel, ""slow""\nturning",\r\n',
    );
  });

  test.each(['T0001\n=1+1', 'T0001\r=1+1', '=1+1', '@SUM(1)', '\n=1+1', '\uff1d1+1'])(
    'a name %j makes neither a row nor a formula of its own',
    (name) => {
      const [, row, ...more] = parse(factsCsv([{ ...clips[0]!, name }], ['rate']), {
        bom: true,
        record_delimiter: ['\r\n', '\n', '\r'],
      });
      expect(row![0]!.replace(/^'/, '')).toBe(name);
      expect(row![0]).not.toMatch(/^[=+\-@\s\uff1d]/);
      expect(more).toEqual([]);
    },
  );

  test('JSON keeps every statement with its source, and is read back by its shape', () => {
    const file = FactFile.parse(
      JSON.parse(
        factsJson(clips, statedFields(clips, FIELDS), { job: 'Slack Water', madeAt: '2026-05-07T00:00:00Z' }),
      ),
    );
    expect(file.clips[0]!.chosen.rate).toEqual({ value: '30000/1001', source: 'container' });
    expect(file.clips[0]!.statements).toHaveLength(6);
    expect(file.fields.map((f) => f.id)).toEqual([
      'description',
      'comment',
      'rate',
      'speed',
      'shutter',
      'longitude',
      'slope',
    ]);
  });

  test('values for programs, headings for people', () => {
    expect(
      [
        fps(25),
        moment('2026-05-06T14:22:05'),
        { type: 'flag', flag: true } as Value,
        { type: 'fraction', num: 3, den: 1 } as Value,
      ].map(plainValue),
    ).toEqual([25, '2026-05-06T14:22:05', true, 3]);
    expect([heading('width'), heading('aperture'), heading('model')]).toEqual([
      'Width (px)',
      'Aperture',
      'Model',
    ]);
  });
});

describe('field sets', () => {
  test('the shipped ones are right, and go through JSON', () =>
    expect(FieldSet.array().parse(JSON.parse(JSON.stringify(SHIPPED_SETS)))).toEqual(SHIPPED_SETS));
  test('no name, no fields, a field twice or unknown: refused', () => {
    for (const bad of [
      { name: ' ', fields: ['iso'] },
      { name: 'x', fields: [] },
      { name: 'x', fields: ['iso', 'iso'] },
      { name: 'x', fields: ['magic'] },
    ])
      expect(FieldSet.safeParse(bad).success).toBe(false);
    expect(FieldSetFile.safeParse({ kind: 'another', sets: [{ name: 'x', fields: ['iso'] }] }).success).toBe(
      false,
    );
  });
});
