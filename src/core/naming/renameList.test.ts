import { expect, test } from '@jest/globals';
import { parse } from 'csv-parse/sync';
import { type Renamed, renameCsv, renameReport } from './renameList';

const file = (from: string, to: string, given: Partial<Renamed> = {}): Renamed => ({
  clip: 'T0001',
  kind: 'move',
  from,
  to,
  size: 10,
  state: 'done',
  fault: null,
  ...given,
});

test('the list can be read back, whatever names it holds; no name is a formula', () => {
  const files = [
    file('In/a,"b".MP4', 'Out/SLW_1.MP4'),
    file('In/two\nlines.XML', 'Out/=1+1.XML'),
    file('=cmd', '@x', { clip: '-rf', state: 'failed', fault: 'the volume is full (ENOSPC)' }),
  ];
  const rows = parse<Record<string, string>>(renameCsv(files), { bom: true, columns: true });
  expect(rows.map((r) => [r.From, r.To, r.State])).toEqual([
    ['In/a,"b".MP4', 'Out/SLW_1.MP4', 'done'],
    ['In/two\nlines.XML', 'Out/=1+1.XML', 'done'],
    ["'=cmd", "'@x", 'left where it was'],
  ]);
  expect(rows[2]!.Clip).toBe("'-rf");
});

test('the report goes clip by clip, and says what was not done', () => {
  expect(
    renameReport(
      [
        file('In/T1.MP4', 'Out/1.MP4'),
        file('In/T1.XML', 'Out/1.XML', { kind: 'copy', state: 'failed', fault: 'away' }),
      ],
      ['Slack Water, 6 May 2026'],
    ),
  ).toBe(`Slack Water, 6 May 2026
2 files of 1 clips; 1 done, 1 not.

T0001
  In/T1.MP4
    -> Out/1.MP4
  In/T1.XML
    -> Out/1.XML
    copied, left where it was: away
`);
});
