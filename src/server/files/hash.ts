import { createXXHash128 } from 'hash-wasm';
import { open } from 'node:fs/promises';

const CHUNK = 4 << 20;

/** An XXH3-128 in the making; `digest` gives 32 hexadecimal digits, most significant first, as xxhsum prints them. */
export async function newHash(): Promise<{ update(bytes: Uint8Array): unknown; digest(): string }> {
  const hash = await createXXHash128();
  hash.init();
  return { update: (bytes) => hash.update(bytes), digest: () => hash.digest('hex') };
}

/** XXH3-128 of a file's contents. */
export async function hashFile(file: string): Promise<string> {
  const hash = await newHash();
  for await (const chunk of chunksOf(file)) hash.update(chunk);
  return hash.digest();
}

/** A file's bytes in order. The chunk is overwritten by the next one. */
export async function* chunksOf(file: string): AsyncGenerator<Buffer> {
  const handle = await open(file, 'r');
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
