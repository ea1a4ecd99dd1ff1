import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { cpSync, rmSync } from 'node:fs';
import path from 'node:path';
import { ofComing, withComing } from '../../core/naming/coming';
import { composePlan, fieldsOfRequest, nameClips } from '../../core/naming/compose';
import { type Coming, namingRequest } from '../../core/naming/shapes';
import { newBlock } from '../../core/naming/blocks';
import { takeIn } from '../intake';
import { beginJob } from '../jobs';
import { clips } from '../cards/tables';
import { TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { comingClips, loadNaming, planNaming } from '.';

// Names that are shown before a card is copied are those its clips get when they are in the job.

let s: TestShelf;
beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 60 }, TEST_JOB);
  const footage = process.env.SORT_SHELF_FOOTAGE!;
  for (const card of ['B003', 'C001', 'S001', 'A002'])
    cpSync(path.join(footage, 'drawer', card), path.join(s.shelf, 'Cards', card), { recursive: true });
});
afterAll(() => s.close());

const coming = (card: string, given: Partial<Coming> = {}): Coming => ({
  root: 'shelf',
  path: `Cards/${card}`,
  folder: '',
  camera: card[0]!,
  cardId: card,
  day: 2,
  date: '2026-05-06',
  clips: null,
  singles: [],
  ...given,
});
const request = namingRequest({
  convention: {
    name: 'All there is',
    blocks: [
      newBlock('camera'),
      newBlock('camera', 'm', { part: 'name' }),
      newBlock('time'),
      newBlock('counter', 'n', { per: [] }),
      newBlock('rate'),
      newBlock('size'),
      newBlock('codec'),
      newBlock('original', 'o', { part: 'name' }),
    ],
    changes: [],
  },
});

/** Waits until everything is read, as the page does. */
async function read(wanted: Coming) {
  for (;;) {
    const found = await comingClips(s.runtime, wanted, fieldsOfRequest(request));
    if (found.read === found.of) return found.clips;
  }
}

test('names and places before are those after, on every kind of card, and numbers go on after what is there', async () => {
  let before = 0;
  for (const card of ['B003', 'C001', 'S001', 'A002']) {
    const ahead = await read(coming(card));
    expect(ahead.length).toBeGreaterThan(0);
    const data = withComing(await loadNaming(s.runtime, fieldsOfRequest(request)), ahead);
    const wanted = ofComing(request, ahead);
    const shown = composePlan(data, wanted, nameClips(data, wanted), () => false);
    expect(await s.runtime.db.$count(clips)).toBe(before);
    await takeIn(s.runtime, {
      root: 'shelf',
      path: `Cards/${card}`,
      cards: [{ folder: '', camera: card[0]!, cardId: card, day: 2, date: '2026-05-06' }],
    });
    await s.runtime.queue.drain();
    const { rowsOf } = await planNaming(s.runtime, { ...request, cards: [card] });
    const named = (rows: ReturnType<typeof rowsOf>) =>
      rows.filter((r) => !r.out).map((r) => [r.original, r.folder, r.stem, r.files].join(' '));
    expect(named(shown.rowsOf('all'))).toEqual(named(rowsOf('all')));
    before += ahead.length;
  }
  expect(before).toBeGreaterThan(8);
});

test('only what is ticked; a card that is gone is said', async () => {
  const [first] = await read(coming('B003'));
  const only = await comingClips(
    s.runtime,
    coming('B003', { clips: [first!.files[0]!.place.path.replace('Incoming/B003/', '')] }),
    [],
  );
  expect(only.clips.map((c) => c.original)).toEqual([first!.original]);
  expect((await comingClips(s.runtime, coming('B003', { clips: [] }), [])).of).toBe(0);
  rmSync(path.join(s.shelf, 'Cards/B003'), { recursive: true });
  await expect(comingClips(s.runtime, coming('B003'), [])).rejects.toThrow('no longer there');
});

test('nothing ticked makes a plan of nothing', () => {
  expect(ofComing(request, []).clips).toEqual(['none']);
});
