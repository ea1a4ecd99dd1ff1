import { unreadWhy } from '../platform/files/faults';
import type { Told } from './read';
import { replayed } from './replayed';

// The process that reads a file of records that may have come with anybody's folder, bundled by scripts/threads.mjs.

/** Rows that are told at once. */
const PAGE = 2000;

const tell = (told: Told): Promise<void> =>
  new Promise((resolve, reject) => {
    process.send!(told, (e: Error | null) => (e ? reject(e) : resolve()));
  });

async function answer(file: string): Promise<void> {
  const read = await replayed(file);
  for (const [table, rows] of read?.tables ?? [])
    // A table without rows is told as well.
    for (let i = 0; i === 0 || i < rows.length; i += PAGE)
      await tell({ table, rows: rows.slice(i, i + PAGE) });
  await tell({ ended: read && { header: read.header, mark: read.mark } });
}

process.once('message', (file: string) => {
  void answer(file).catch((e: unknown) => tell({ fault: unreadWhy(e) }));
});
// Whoever asked has gone.
process.once('disconnect', () => process.exit());
