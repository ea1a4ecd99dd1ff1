import PQueue from 'p-queue';
import type { Family } from '../../core/intake';
import { sampleOf } from '../platform/files/hash';
import { joinPath } from '../platform/files/names';

/** Fingerprints of the originals, by path below the card. A file that cannot be read has none. */
export async function samplesOf(families: readonly Family[], at: string): Promise<Map<string, string>> {
  const samples = new Map<string, string>();
  const queue = new PQueue({ concurrency: 4 });
  await queue.addAll(
    families.map(({ files: [original] }) => async () => {
      const sample = await sampleOf(joinPath(at, original!.path), original!.size).catch(() => null);
      if (sample) samples.set(original!.path, sample);
    }),
  );
  return samples;
}
