import { createHash } from 'node:crypto';
import { c4FromSha512, type HashKind } from '../../../core/hashLists';
import { openPlain } from './plainFile';
import XX from 'xxhash-addon';
import type { DiskPath } from '../../../core/platform/names';

const CHUNK = 4 << 20;

/** A hash in the making; `digest` gives it as `HashKind` says values are written. */
export interface Hash {
  update(bytes: Buffer): unknown;
  digest(): string;
}

const XXH = { xxh128: XX.XXHash128, xxh64: XX.XXHash64, xxh3: XX.XXHash3 } as const;

export function newHash(kind: HashKind = 'xxh128'): Hash {
  if (kind === 'md5' || kind === 'sha1' || kind === 'c4') {
    const hash = createHash(kind === 'c4' ? 'sha512' : kind);
    return {
      update: (bytes) => hash.update(bytes),
      digest: () => (kind === 'c4' ? c4FromSha512(hash.digest('hex')) : hash.digest('hex')),
    };
  }
  // Eight bytes of seed: none.
  const hash = new XXH[kind](Buffer.alloc(8));
  return { update: (bytes) => hash.update(bytes), digest: () => hash.digest().toString('hex') };
}

/** Hashes very many short values by one state: each has memory of its own that the garbage collector does not see. */
export function shortHashes(kind: HashKind): (chunks: readonly Buffer[]) => string {
  const digestOf = (hash: Hash, chunks: readonly Buffer[]): string => {
    for (const c of chunks) hash.update(c);
    return hash.digest();
  };
  if (kind === 'md5' || kind === 'sha1' || kind === 'c4') return (chunks) => digestOf(newHash(kind), chunks);
  const state = new XXH[kind](Buffer.alloc(8));
  return (chunks) => {
    state.reset();
    return digestOf(
      { update: (bytes) => state.update(bytes), digest: () => state.digest().toString('hex') },
      chunks,
    );
  };
}

/** Hash of a file's contents. */
export async function hashFile(file: DiskPath, kind: HashKind = 'xxh128'): Promise<string> {
  const hash = newHash(kind);
  for await (const chunk of chunksOf(file)) hash.update(chunk);
  return hash.digest();
}

/** A file's bytes in order. The chunk is overwritten by the next one. */
export async function* chunksOf(file: DiskPath): AsyncGenerator<Buffer> {
  const handle = await openPlain(file);
  try {
    const buffer = Buffer.allocUnsafe(CHUNK);
    for (;;) {
      const { bytesRead } = await handle.read(buffer, 0, CHUNK, null);
      if (bytesRead === 0) return;
      yield buffer.subarray(0, bytesRead);
    }
  } finally {
    await handle.close();
  }
}

const SAMPLE = 64 << 10;

/**
 * A fingerprint of a file's contents that costs three short reads: XXH3-128 over its length and its first, middle and last
 * 64 KiB. Two recordings that share it are the same for every practical purpose; a copy is never proven by it.
 */
export async function sampleOf(file: DiskPath, size: number): Promise<string> {
  const hash = newHash();
  hash.update(Buffer.from(`${size}\n`));
  const handle = await openPlain(file);
  try {
    const buffer = Buffer.alloc(SAMPLE);
    const places = size <= 3 * SAMPLE ? [0, SAMPLE, 2 * SAMPLE] : [0, Math.floor(size / 2), size - SAMPLE];
    for (const at of places) {
      if (at >= size) break;
      const { bytesRead } = await handle.read(buffer, 0, SAMPLE, at);
      hash.update(buffer.subarray(0, bytesRead));
    }
  } finally {
    await handle.close();
  }
  return hash.digest();
}
