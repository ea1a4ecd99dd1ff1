import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { PGlite } from '@electric-sql/pglite';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

// What the version before kept by card id, brought into physical cards: on the safe side, with nothing lost.

const FOLDER = 'src/server/platform/db/migrations';
let db: PGlite;
const apply = async (from: number, to: number): Promise<void> => {
  for (const name of readdirSync(FOLDER)
    .filter((n) => n.endsWith('.sql'))
    .sort()
    .slice(from, to)) {
    for (const statement of readFileSync(path.join(FOLDER, name), 'utf8').split('--> statement-breakpoint'))
      await db.exec(statement);
  }
};
const rows = async <T>(text: string): Promise<T[]> => (await db.query<T>(text)).rows;

beforeAll(async () => {
  db = await PGlite.create();
  await apply(0, 3);
  const check = (changed: string[]) =>
    JSON.stringify({
      at: '2026-05-05T12:00:00Z',
      list: 'x',
      generation: 2,
      same: 1,
      changed,
      missing: [],
      added: [],
      unreadable: [],
      unchecked: [],
      lists: [],
    });
  await db.exec(`
    insert into roots values ('r', 'source', 'Reader', '/r'), ('n', 'safe', 'North', '/n'), ('s', 'safe', 'South', '/s'), ('shelf', 'shelf', 'Shelf', '/shelf');
    insert into jobs (id, name, code, zone_minutes, convention, folder_plan) values ('job', 'Slack Water', 'SLW', 0, '{}', '{}');
    insert into days values (1, null); insert into cameras (letter) values ('B');
    insert into cards (id, camera, day, shape, root, folder, aside, taken_at) values ('B001', 'B', 1, 'plain', 'r', 'B001', '[]', '2026-05-05T10:00:00Z'), ('B002', 'B', 1, 'plain', 'r', 'B001', '[]', '2026-05-06T10:00:00Z');
    insert into offloads (id, card, root, folder, state, verification, hash, destinations, files, bytes, empty_folders, cannot, queued_at) values
      ('first', 'B001', 'r', 'B001', 'partly', 'contents', 'xxh128', '[]', 3, 30, '[]', '[]', '2026-05-05T10:00:01Z'),
      ('sizes', 'B009', 'r', 'B009', 'done', 'sizes', 'xxh128', '[]', 1, 10, '[]', '[]', '2026-05-05T11:00:00Z');
    insert into clips (id, card, original, state, statements, audio) values ('c', 'B001', 'T2', 'read', '[]', '[]');
    insert into files (id, clip, role, root, path, suffix, size, modified, sample) values ('f', 'c', 'original', 'r', 'B001/T2.MP4', '', 10, 1, 'sample');
    insert into offload_files (offload, number, path, size, modified, "to", file, state, hash) values
      ('first', 0, 'T1.MP4', 10, 1, '[0, 1]', null, 'verified', 'h1'), ('first', 1, 'T2.MP4', 10, 1, '[0, 1]', 'f', 'failed', null), ('first', 2, 'N.TXT', 10, 1, '[]', null, 'left', null),
      ('sizes', 0, 'T1.MP4', 10, 1, '[0]', null, 'verified', 'h9');
    insert into safe_copies (id, card, offload, destination, root, folder, verification, hash, verified_at, "check") values
      ('north', 'B001', 'first', 0, 'n', 'B001', 'contents', 'xxh128', '2026-05-05T10:30:00Z', null),
      ('south', 'B001', 'first', 1, 's', 'B001', 'contents', 'xxh128', '2026-05-05T10:30:00Z', '${check(['T1.MP4'])}'),
      ('promoted', 'B009', 'sizes', 0, 'n', 'B009', 'sizes', 'xxh128', '2026-05-05T11:30:00Z', '${check([])}');`);
  await apply(3, 99);
}, 120_000);
afterAll(() => db.close());

test('each copying is a physical card with its manifest and what the card gave', async () => {
  expect(await rows('select id, label, whole_volume from physical_cards order by id')).toEqual([
    { id: 'first', label: 'B001', whole_volume: false },
    { id: 'sizes', label: 'B009', whole_volume: false },
  ]);
  expect(await rows("select path, sample from card_files where card = 'first' order by number")).toEqual([
    { path: 'T1.MP4', sample: null },
    { path: 'T2.MP4', sample: 'sample' },
    { path: 'N.TXT', sample: null },
  ]);
  expect(await rows("select number, value from card_readings where card = 'first'")).toEqual([
    { number: 0, value: 'h1' },
  ]);
});

test('a label names the card it was given with, and no other', async () => {
  expect(await rows('select id, physical from cards order by id')).toEqual([
    { id: 'B001', physical: 'first' },
    { id: 'B002', physical: null },
  ]);
  expect(await rows('select on_card from files')).toEqual([{ on_card: 'first' }]);
});

test('only a copy that was read back, and in which no check found a fault, counts without being checked again', async () => {
  expect(await rows('select copy, result, value from copy_readings order by copy')).toEqual([
    { copy: 'north', result: 'read', value: 'h1' },
    { copy: 'promoted', result: 'sizeOnly', value: null },
    { copy: 'south', result: 'sizeOnly', value: null },
  ]);
});
