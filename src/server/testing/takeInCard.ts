import { look } from '../intake/look';
import { takeIn } from '../intake/takeIn';
import type { TestShelf } from './media';

/** Takes the folder “In” of the shelf in as the card B001 of the first day, and has its clips read; what comes of that is left queued. */
export async function takeInCard({ runtime }: Pick<TestShelf, 'runtime'>): Promise<void> {
  const found = await look(runtime, 'shelf', 'In');
  await takeIn(runtime, {
    root: 'shelf',
    path: 'In',
    cards: [{ folder: found.cards[0]!.folder, camera: 'B', cardId: 'B001', day: 1, date: null }],
  });
  await runtime.queue.drainKind('read');
  await runtime.queue.drainKind('rest');
}
