import { describe, expect, test } from '@jest/globals';
import { newBlock } from './blocks';
import { DEFAULT_CONVENTION } from './convention';
import { fillingOf } from './fill';
import { sampleClip } from './sample';
import type { NamingData } from './shapes';

const clip = (id: string, current: string, folder = 'Day 1/Weir/A001'): NamingData['clips'][number] => ({
  ...sampleClip(id, { current }),
  size: [1920, 1080],
  extension: '.MP4',
  held: [],
  beside: [],
  files: [
    {
      id: `f${id}`,
      role: 'original',
      place: { root: 'shelf', path: `${folder}/${current}.MP4` },
      suffix: '',
      size: 1,
      modified: 1,
    },
  ],
});
const data: NamingData = {
  clips: [clip('T0001', 'SLW_12_3_001'), clip('T0002', 'T0002'), clip('T0003', 'Mu\u0308hle')],
  roots: [],
  shelf: 'shelf',
  given: [],
  notTaken: [],
};
const list = (text: string) => fillingOf({ from: 'list', text }, data, DEFAULT_CONVENTION);

describe('from a list', () => {
  test('names are those of now or the camera’s, with or without extension, in any case and Unicode form', () => {
    expect(
      list(
        '\ufeffName,Scene,Remarks,Place\r\nSLW_12_3_001.MP4,12,x,"Weir, lower"\r\nt0002,13,,\r\nM\u00fchle,14,y,Wheel\r\n',
      ).said,
    ).toEqual([
      { clip: 'T0001', field: 'scene', value: '12' },
      { clip: 'T0001', field: 'place', value: 'Weir, lower' },
      { clip: 'T0002', field: 'scene', value: '13' },
      { clip: 'T0003', field: 'scene', value: '14' },
      { clip: 'T0003', field: 'place', value: 'Wheel' },
    ]);
  });
  test('tabs and semicolons separate, too; old and new names are a list', () => {
    expect(list('Old\tNew\nT0001\tWheel').said).toEqual([
      { clip: 'T0001', field: 'givenName', value: 'Wheel' },
    ]);
    expect(list('Clip;Take\nT0001;4').said).toEqual([{ clip: 'T0001', field: 'take', value: '4' }]);
  });
  test('lines of no clip, and of several, are said; the others count', () => {
    const twice = { ...data, clips: [...data.clips, clip('T9', 'T0002')] };
    const { said, notes } = fillingOf(
      {
        from: 'list',
        text: `Name,Scene\nT0002,1\nT0003,2\n${Array.from({ length: 12 }, (_, i) => `X${i},3`).join('\n')}`,
      },
      twice,
      DEFAULT_CONVENTION,
    );
    expect(said).toEqual([{ clip: 'T0003', field: 'scene', value: '2' }]);
    expect(notes[0]).toBe('2 clips are named “T0002”');
    expect(notes.at(-1)).toBe('and 5 more lines');
  });
  test.each([
    ['Name,Colour\nT0001,red', 'The first line has to name the columns'],
    ['', 'The first line has to name the columns'],
    ['Name,Scene\n"T0001,12', 'The list cannot be read'],
  ])('%j is refused with the reason', (text, reason) => expect(() => list(text)).toThrow(reason));
});

test('from the folder a clip is in', () => {
  expect(fillingOf({ from: 'folder', up: 2, field: 'place' }, data, DEFAULT_CONVENTION).said).toEqual(
    data.clips.map((c) => ({ clip: c.id, field: 'place', value: 'Weir' })),
  );
  expect(fillingOf({ from: 'folder', up: 9, field: 'place' }, data, DEFAULT_CONVENTION).said).toEqual([]);
});

test('from names, by the convention', () => {
  const convention = {
    name: 'x',
    blocks: [newBlock('job'), newBlock('scene'), newBlock('take'), newBlock('counter')],
    changes: [],
  };
  expect(fillingOf({ from: 'names' }, data, convention)).toEqual({
    said: [
      { clip: 'T0001', field: 'scene', value: '12' },
      { clip: 'T0001', field: 'take', value: '3' },
    ],
    notes: ['2 names do not follow the convention'],
  });
  expect(fillingOf({ from: 'names' }, data, DEFAULT_CONVENTION).notes[0]).toContain(
    'no block of the convention',
  );
});
