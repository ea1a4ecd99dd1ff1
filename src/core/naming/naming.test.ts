import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { rate } from '../platform/timecode/rate';
import { type Block, BLOCKS, newBlock } from './blocks';
import { changer, faultOf, newChange } from './changes';
import { ALL_SYSTEMS, checkName } from './check';
import type { NamingClip } from './clip';
import { Convention, DEFAULT_CONVENTION, DEFAULT_FOLDER_PLAN, FolderPlan } from './convention';
import { following, readBack, strayed } from './readBack';
import { renderNames, type RenderOptions } from './render';
import { sampleClip as clip } from './sample';

const convention = (...blocks: Block[]): Convention => ({ name: 'Test', blocks, changes: [] });
const OPTIONS: RenderOptions = {
  given: [],
  notTaken: () => false,
  exists: () => true,
  systems: ALL_SYSTEMS,
};
const render = (c: Convention, clips: NamingClip[], options: Partial<RenderOptions> = {}) =>
  renderNames(c, DEFAULT_FOLDER_PLAN, clips, { ...OPTIONS, ...options });
const stems = (c: Convention, clips: NamingClip[]) => render(c, clips).names.map((r) => r.stem);

const STATED = {
  scene: '12',
  take: '3',
  place: 'Weir',
  operator: 'N. Vale',
  givenName: 'Wheel one',
  codec: 'H.264',
  gamma: 'LogC',
  lookName: 'Dawn',
  iso: '800',
};

const KEYWORDED = [
  { name: 'low water', group: '' },
  { name: 'Close', group: 'Size' },
  { name: 'wide', group: 'Size' },
];

describe('rendering', () => {
  test('every kind of block writes what it says, and its settings are those of its editor', () => {
    const all = convention(...BLOCKS.map((b) => newBlock(b.kind)));
    expect(
      stems(all, [clip('T0009', { rate: rate(30000, 1001), facts: STATED, keywords: KEYWORDED })]),
    ).toEqual([
      'SLW_D1_20260505_100000_B_B001_2997p_1920x1080_H.264_LogC_Dawn_12_3_Weir_N.-Vale_low-water_800_0009_Wheel-one_words_001',
    ]);
    expect(Convention.parse(JSON.parse(JSON.stringify(all)))).toEqual(all);
    for (const b of BLOCKS)
      expect([b.kind, b.settings.map((s) => s.key).sort()]).toEqual([b.kind, Object.keys(b.fresh).sort()]);
  });

  test.each<[string, Record<string, unknown>, string]>([
    ['the first of all', {}, 'SLW_low-water'],
    ['all', { most: 20 }, 'SLW_low-water-Close-wide'],
    ['with something else between them', { most: 2, between: '+' }, 'SLW_low-water+Close'],
    ['those of a group', { of: 'size', most: 20 }, 'SLW_Close-wide'],
    ['the first of a group', { of: ' Size ' }, 'SLW_Close'],
    ['a certain one, however it is written', { of: 'WIDE' }, 'SLW_wide'],
    ['none that the clip has', { of: 'rain' }, 'SLW'],
  ])('keywords: %s', (_, own, stem) => {
    const c = convention(newBlock('job'), newBlock('keyword', 'keyword', own));
    expect(stems(c, [clip('T1', { keywords: KEYWORDED })])).toEqual([stem]);
  });

  test('a clip without the keyword that its name is made of stops, where that is wanted, and says which', () => {
    const c = convention(newBlock('job'), newBlock('keyword', 'k', { of: 'Size' }, { missing: 'stop' }));
    const [with_, without] = render(c, [clip('T1', { keywords: KEYWORDED }), clip('T2')]).names;
    expect(with_!.problems).toEqual([]);
    expect(JSON.stringify(without!.problems)).toContain('no keyword of “Size”');
  });

  test('name and place by the first convention', () => {
    const [r] = render(DEFAULT_CONVENTION, [clip('T0001')]).names;
    expect(r).toMatchObject({
      stem: 'SLW_D1_B001_001_25p',
      folder: 'SLW/D1_2026-05-05/B/B001',
      problems: [],
    });
    expect(r!.parts.map((p) => p.blockId)).toEqual(['job', 'day', 'card', 'counter', 'rate']);
  });

  test.each<[string, Partial<Block>, string]>([
    ['capitals', { letters: 'upper' }, 'SLW_MÜHLE-AM-WEHR'],
    ['small letters', { letters: 'lower' }, 'SLW_mühle-am-wehr'],
    ['plain letters', { plain: true }, 'SLW_Muhle-am-Wehr'],
    ['spaces kept', { spaces: null }, 'SLW_Mühle am Wehr'],
    ['spaces taken away', { spaces: '' }, 'SLW_MühleamWehr'],
    ['no longer than', { longest: 5 }, 'SLW_Mühle'],
    ['filled up', { longest: 3, width: 6, pad: 'x' }, 'SLW_xxxMüh'],
    ['its own separator', { before: ' - ' }, 'SLW - Mühle-am-Wehr'],
  ])('a block is finished: %s', (_, finish, stem) => {
    const c = convention(newBlock('job'), newBlock('place', 'p', {}, finish));
    expect(stems(c, [clip('T1', { facts: { place: 'Mühle am Wehr' } })])).toEqual([stem]);
  });

  test('letters without a plain form are spelt; a fact that holds what no name may has a dash', () => {
    const c = convention(newBlock('place', 'p', {}, { plain: true }));
    expect(stems(c, [clip('T1', { facts: { place: 'Straße nø Æble' } })])).toEqual(['Strasse-no-AEble']);
    expect(
      stems(convention(newBlock('fact', 'f', { field: 'shutter' })), [
        clip('T1', { facts: { shutter: '1/50 s' } }),
      ]),
    ).toEqual(['1-50-s']);
  });

  test('a value that is missing: left out with its separator, a word, or a stop', () => {
    const with_ = (missing: Block['missing']) =>
      render(
        convention(newBlock('card'), newBlock('scene', 's', {}, { missing, word: 'x' }), newBlock('rate')),
        [clip('wheel')],
      ).names[0]!;
    expect(with_('leaveOut')).toMatchObject({
      stem: 'B001_25p',
      problems: [{ level: 'look', text: 'no scene is known' }],
    });
    expect(with_('word')).toMatchObject({ stem: 'B001_x_25p', problems: [] });
    expect(with_('stop')).toMatchObject({ stem: 'B001_25p', problems: [{ level: 'stop' }] });
    expect(with_('stop').problems[0]!.mend).toContain('give the clips a value');
  });

  test('a first block that is missing takes the separator behind it along', () => {
    expect(stems(convention(newBlock('scene'), newBlock('card'), newBlock('rate')), [clip('x')])).toEqual([
      'B001_25p',
    ]);
  });

  test('dates and times are written in any form, of the corrected clock', () => {
    const c = convention(
      newBlock('date', 'd', { of: 'recording', format: 'DD.MM.YY' }),
      newBlock('time', 't', { format: 'hh-mm' }),
    );
    expect(stems(c, [clip('x', { recordedAt: '2026-05-06T23:59:58' })])).toEqual(['06.05.26_23-59']);
    // A word is itself, also where every object has something by that name.
    const word = convention(newBlock('time', 't', { format: 'constructor' }));
    expect(stems(word, [clip('x', { recordedAt: '2026-05-06T23:59:58' })])).toEqual(['constructor']);
  });

  test('names of folders follow blocks too; a level without a value is left out', () => {
    const plan: FolderPlan = {
      ...DEFAULT_FOLDER_PLAN,
      levels: [[newBlock('rate')], [newBlock('scene')], [newBlock('camera', 'c', { part: 'name' })]],
    };
    const [r] = renderNames(DEFAULT_CONVENTION, plan, [clip('x')], OPTIONS).names;
    expect(r!.folder).toBe('25p/Tarn-T5');
    expect(render(DEFAULT_CONVENTION, [clip('x', { date: null, day: null })]).names[0]!.folder).toBe(
      'SLW/no-day/B/B001',
    );
  });
});

describe('changes', () => {
  test('find and replace, letters and trimming, in order', () => {
    const c = changer([
      { ...newChange('replace', 'a'), find: 'T', with: 'W$1\\' } as never,
      { ...newChange('letters', 'b'), to: 'lower' } as never,
      { ...newChange('trim', 'c'), start: 1, end: 2 } as never,
    ]);
    expect(c('aT0001xx')).toBe('w$1\\0001');
    expect(changer([{ id: 'a', kind: 'letters', to: 'capitals' }])('über den WEHR_am steg')).toBe(
      'Über Den Wehr_Am Steg',
    );
  });

  test('regular expressions have groups and cannot hang', () => {
    const of = (find: string, by: string, anyCase = false) =>
      changer([{ id: 'a', kind: 'replace', find, with: by, expression: true, anyCase }]);
    expect(of('(\\d+)_(\\w+)', '$2-$1')('0012_wheel')).toBe('wheel-0012');
    expect(of('WHEEL', 'mill', true)('a wheel')).toBe('a mill');
    // An engine that goes back and tries again would be at this for longer than the world is old.
    expect(of('(a+)+$', 'x')(`${'a'.repeat(5000)}!`)).toHaveLength(5001);
  });

  test('an expression that is none changes nothing and stops the plan', () => {
    const change = {
      id: 'a',
      kind: 'replace',
      find: '(',
      with: '',
      expression: true,
      anyCase: false,
    } as const;
    expect(faultOf(change)).toContain('“(” is no regular expression');
    const [r] = render({ ...DEFAULT_CONVENTION, changes: [change] }, [clip('T1')]).names;
    expect(r).toMatchObject({
      stem: 'SLW_D1_B001_001_25p',
      problems: [{ level: 'stop', code: 'expression' }],
    });
  });

  test('a group that is not there is said', () => {
    const change = {
      id: 'a',
      kind: 'replace',
      find: '(a)',
      with: '$7',
      expression: true,
      anyCase: false,
    } as const;
    expect(faultOf(change)).toBe('“$7” asks for group 7, and “(a)” has only 1');
    expect(changer([change])('banana')).toBe('banana');
  });
});

describe('what earlier versions kept', () => {
  const old = {
    name: 'Picture',
    separator: '-',
    blocks: [
      { id: 'job', kind: 'job' },
      { id: 'day', kind: 'day', prefix: 'D', digits: 2 },
      { id: 'date', kind: 'date', style: 'yymmdd' },
      { id: 'rate', kind: 'rate', suffix: 'p' },
      { id: 'words', kind: 'words', text: 'a b' },
      { id: 'original', kind: 'original', part: 'name' },
      { id: 'c', kind: 'counter', scope: 'dayAndCamera', start: 4, digits: 4, orderBy: 'cameraName' },
    ],
  };
  test('a convention makes the names it made', () => {
    expect(stems(Convention.parse(old), [clip('T0009')])).toEqual(['SLW-D01-260505-25p-a b-T0009-0004']);
  });
  test('a folder plan leads where it led', () => {
    const plan = FolderPlan.parse({
      levels: [
        { kind: 'day', style: 'date' },
        { kind: 'day', style: 'number' },
        { kind: 'day', style: 'numberAndDate' },
        { kind: 'card' },
      ],
      proxyFolder: 'Light',
    });
    expect(renderNames(DEFAULT_CONVENTION, plan, [clip('x')], OPTIONS).names[0]!.folder).toBe(
      '2026-05-05/D1/D1_2026-05-05/B001',
    );
    expect(plan.roles).toEqual({ cameraProxy: { folder: 'Light', at: 'clip', root: null } });
  });
  test.each([
    null,
    7,
    'x',
    [],
    {},
    { ...old, blocks: 7 },
    { ...old, blocks: [null] },
    { ...old, blocks: [{ id: 'a', kind: 'nothing' }] },
    { ...old, blocks: [] },
    { ...old, name: '' },
    { levels: null, proxyFolder: 'x' },
    { levels: [null], proxyFolder: 'x' },
  ])('%j is refused, with a reason', (raw) => {
    for (const shape of [Convention, FolderPlan]) {
      const read = shape.safeParse(raw);
      expect(read.success).toBe(false);
      expect(read.error!.issues.length).toBeGreaterThan(0);
    }
  });
  test('settings of a block that are none are said by its name', () => {
    const read = Convention.safeParse(convention({ ...newBlock('day'), own: { prefix: 'D', digits: 9 } }));
    expect(read.error!.issues[0]).toMatchObject({ path: ['blocks', 0, 'own', 'digits'] });
    expect(read.error!.issues[0]!.message).toContain('Day:');
  });
});

describe('reading names back', () => {
  const apart = (c: Convention, name: string) => {
    const r = readBack(c, name);
    return r?.fits ? Object.fromEntries(r.apart.texts) : r;
  };
  test('a name is taken apart', () => {
    expect(apart(DEFAULT_CONVENTION, 'SLW_D2_B002_003_2997p')).toEqual({
      job: 'SLW',
      day: 'D2',
      card: 'B002',
      counter: '003',
      rate: '2997p',
    });
  });
  test('a block that may be left out is found missing', () => {
    const c = convention(newBlock('day'), newBlock('scene'), newBlock('counter'));
    expect(apart(c, 'D1_12_003')).toEqual({ day: 'D1', scene: '12', counter: '003' });
    expect(apart(c, 'D1_003')).toEqual({ day: 'D1', counter: '003' });
  });
  test('a name that does not follow says at which block', () => {
    expect(readBack(DEFAULT_CONVENTION, 'SLW_D1_B001_x_25p', { code: 'SLW' })).toEqual({
      fits: false,
      block: 'counter',
    });
    const c = convention(
      newBlock('date', 'date', {}, { missing: 'stop' }),
      newBlock('counter', 'n', {}, { missing: 'stop' }),
    );
    expect(readBack(c, '20260505_x')).toEqual({ fits: false, block: 'n' });
    expect(readBack(c, '')).toEqual({ fits: false, block: 'date' });
  });
  test('two ways to read one are said', () => {
    const c = convention(
      newBlock('place', 'a', {}, { before: '' }),
      newBlock('scene', 'b', {}, { before: '' }),
    );
    expect(readBack(c, 'abc')).toMatchObject({ fits: true, apart: { ambiguous: true } });
    expect(readBack(DEFAULT_CONVENTION, 'SLW_D1_B001_001_25p')).toMatchObject({
      apart: { ambiguous: false },
    });
  });
  test('a convention that changes the whole name cannot be read back', () => {
    expect(readBack({ ...DEFAULT_CONVENTION, changes: [newChange('letters', 'a')] }, 'x')).toBeNull();
  });
  test('a name is held against what the clip is', () => {
    const [r] = render(DEFAULT_CONVENTION, [clip('T1')]).names;
    expect(following(DEFAULT_CONVENTION, 'SLW_D1_B001_001_25p', r!, { code: 'SLW' })).toEqual({
      follows: true,
    });
    expect(following(DEFAULT_CONVENTION, 'SLW_D2_B001_001_25p', r!, { code: 'SLW' })).toEqual({
      follows: false,
      block: 'day',
      has: 'D2',
      wanted: 'D1',
    });
  });
  test('after a database was lost, numbers are those the names have', () => {
    const lost = [
      clip('T1', { current: 'SLW_D1_B001_001_25p', recordedAt: '2026-05-05T10:00:00' }),
      clip('T2', { current: 'SLW_D1_B001_003_25p', recordedAt: '2026-05-05T11:00:00' }),
      clip('T0', { recordedAt: '2026-05-05T09:00:00' }),
    ];
    expect(stems(DEFAULT_CONVENTION, lost)).toEqual([
      'SLW_D1_B001_001_25p',
      'SLW_D1_B001_003_25p',
      'SLW_D1_B001_004_25p',
    ]);
    // Numbers that do not begin with the first were counted in another way.
    expect(stems(DEFAULT_CONVENTION, lost.slice(1))).toEqual(['SLW_D1_B001_002_25p', 'SLW_D1_B001_001_25p']);
  });
  test('where it does not, is said in words', () => {
    const [r] = render(DEFAULT_CONVENTION, [clip('T1')]).names;
    const said = (name: string) => strayed(DEFAULT_CONVENTION, name, r!, { code: 'SLW' });
    expect(said('SLW_D1_B001_001_25p')).toBeNull();
    expect(said('SLW_D2_B001_001_25p')).toBe('Day: D2, not D1');
    expect(said('SLW_B001_001_25p')).toBe('Day: not D1');
    expect(said('SLW_D1_B001_x_25p')).toBe('Counter: not 001');
  });
  test('a name of separators only is read by a row of texts, of which there are ways without number', () => {
    const c = convention(
      ...Array.from({ length: 12 }, (_, i) => newBlock('scene', `s${i}`, {}, { before: i % 2 ? '' : '_' })),
    );
    expect(readBack(c, '_'.repeat(230))).toMatchObject({ fits: true, apart: { ambiguous: true } });
  });

  test('what was rendered is read back the same, wherever there is one way to read it', () => {
    const word = fc.stringMatching(/^[A-Za-z0-9]{1,8}$/u);
    const kinds = fc.uniqueArray(fc.constantFrom(...BLOCKS.map((b) => b.kind)), {
      minLength: 1,
      maxLength: 8,
    });
    let unique = 0;
    fc.assert(
      fc.property(
        kinds,
        fc.constantFrom('_', '-', '.', ' ', '__'),
        fc.record({
          scene: word,
          take: word,
          place: word,
          operator: word,
          givenName: word,
          codec: word,
          gamma: word,
          lookName: word,
          iso: word,
        }),
        fc.constantFrom('asTheyAre', 'upper', 'lower'),
        fc.integer({ min: 1, max: 400 }),
        (row, before, facts, letters, day) => {
          const c = convention(...row.map((k) => newBlock(k, k, {}, { before, letters })));
          const keywords = [{ name: facts.lookName, group: '' }];
          const [r] = render(c, [clip('T0009', { facts, day, keywords })]).names;
          const reading = readBack(c, r!.stem);
          expect(reading?.fits).toBe(true);
          if (!reading?.fits || reading.apart.ambiguous || facts.place.includes(before)) return;
          // A text that holds the separator itself may be read otherwise: no separator is in these but those of formats.
          if (row.some((k) => r!.parts.find((p) => p.blockId === k)!.text.includes(before))) return;
          unique++;
          expect(Object.fromEntries(reading.apart.texts)).toEqual(
            Object.fromEntries(r!.parts.map((p) => [p.blockId, p.text])),
          );
        },
      ),
      { numRuns: 1000, seed: 5 },
    );
    expect(unique).toBeGreaterThan(600);
  });
});

describe('names that do not travel', () => {
  // Characters, device names and ends: Microsoft, "Naming Files, Paths, and Namespaces" (from memory); superscript digits are among them there.
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
    ['COM¹', 'device'],
    ['conin$', 'device'],
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

  test.each<[string, ('APFS' | 'ext4' | 'exFAT' | 'NTFS')[], string[]]>([
    ['a:b', ['ext4'], []],
    ['a:b', ['APFS'], ['illegal']],
    ['what?', ['APFS', 'ext4'], []],
    ['CON', ['APFS', 'ext4'], []],
    ['…'.repeat(80), ['NTFS'], []],
    ['…'.repeat(80), ['ext4'], ['long']],
    ['x'.repeat(231), ['exFAT'], ['long']],
    ['x'.repeat(230), ['exFAT'], []],
  ])('%j on %j', (name, systems, codes) =>
    expect(checkName(name, systems).map((p) => p.code)).toEqual(codes),
  );

  test('each says what would mend it', () => {
    for (const name of ['a:b', '', 'end.', 'CON', 'x'.repeat(300), 'a\ue000'])
      expect(checkName(name).every((p) => (p.mend ?? '') !== '')).toBe(true);
  });
});
