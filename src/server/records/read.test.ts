import { afterAll, afterEach, beforeAll, expect, test } from '@jest/globals';
import { appendFileSync, mkdtempSync, rmSync, statSync, truncateSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { Mark } from '../../core/records/replay';
import { put } from '../testing/media';
import { copiedJobs } from './copied';
import { findRecords } from './find';
import { readingLimits, readRecords } from './read';
import { TABLES } from './recorded';

// Records that came with somebody’s folder may be anything: they are read in a process of its own, which has its own memory.

let dir: string;
const LIBRARY = '0b9f6f0e-3b4c-4f4e-9a53-6d8a4f7f0c11';
const header = `${JSON.stringify({ records: 2, library: LIBRARY, root: 'shelf' })}\n`;
const mark = `${JSON.stringify(
  Mark.parse({ upTo: 7, at: '2026-05-06T10:00:00.000Z', grown: {}, base: 1 }),
)}\n`;
const recordsAt = (folder: string, text: string): string =>
  put(path.join(dir, folder, '.sort-shelf', `records-${LIBRARY}.jsonl`), text);
const { memory, least } = readingLimits;

beforeAll(() => {
  dir = mkdtempSync(path.join(tmpdir(), 'shelf-records-'));
});
afterEach(() => {
  Object.assign(readingLimits, { memory, least });
});
afterAll(() => rmSync(dir, { recursive: true, force: true }));

test('what was written is read', async () => {
  const file = recordsAt(
    'whole',
    `${header}{"table":"jobs","rows":[{"id":"j"}]}\n${mark}{"table":"jobs","ro`,
  );
  const read = await readRecords(file);
  expect(read).toMatchObject({ file, header: { root: 'shelf' }, mark: { upTo: 7 } });
  expect(read!.tables.get('jobs')).toEqual([{ id: 'j' }]);
  expect([...read!.tables].filter(([, rows]) => rows.length === 0)).toHaveLength(TABLES.length - 1);
});

test('a line that no text can hold is said with its number, and holds up nothing', async () => {
  const file = recordsAt('long', header);
  truncateSync(file, 600e6);
  await expect(readRecords(file)).rejects.toThrow(/line 2 is longer than/);
  const { faults } = await findRecords(path.join(dir, 'home'), [path.join(dir, 'long')]);
  expect(faults).toContainEqual(expect.stringMatching(/long[^]*line 2 is longer than/));
  // Nothing in it counts: no mark was reached.
  expect(await copiedJobs(path.join(dir, 'long'))).toEqual({ jobs: [], at: null });
});

test.each([
  ['many lines', 12, 400_000],
  ['a single line', 1, 4_000_000],
])(
  '%s with more than memory holds: that ends the process that reads them alone, and is said',
  async (name, lines, rows) => {
    readingLimits.memory = 48;
    const file = recordsAt(name, header);
    const line = `{"table":"jobs","rows":[${'{"a":1},'.repeat(rows)}{}]}\n`;
    for (let n = 0; n < lines; n++) appendFileSync(file, line);
    appendFileSync(file, mark);
    expect(statSync(file).size).toBeLessThan(40e6);
    await expect(readRecords(file)).rejects.toThrow(/more than there is memory for/);
    // The next is read as ever.
    const next = recordsAt('next', `${header}{"table":"jobs","rows":[{"id":"k"}]}\n${mark}`);
    expect((await readRecords(next))!.tables.get('jobs')).toEqual([{ id: 'k' }]);
  },
);

test('what takes without end is ended, and said', async () => {
  const file = recordsAt('slow', `${header}{"table":"jobs","rows":[{"id":"j"}]}\n${mark}`);
  readingLimits.least = 1;
  await expect(readRecords(file)).rejects.toThrow('it takes too long to read');
  readingLimits.least = least;
  expect((await readRecords(file))!.mark.upTo).toBe(7);
});
