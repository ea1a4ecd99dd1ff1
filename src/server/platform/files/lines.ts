import { constants } from 'node:buffer';
import type { FileHandle } from 'node:fs/promises';

const LINE_FEED = 10;

/**
 * The lines of a file that is open, which is closed with them, however that ends. Throws where one has more bytes than a text can have
 * characters, naming it. What a line holds so far is not looked at again with each piece that is read: it may be very long.
 */
export async function* linesIn(handle: FileHandle): AsyncGenerator<string> {
  let line = 1;
  let held: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of handle.createReadStream({ highWaterMark: 1 << 20 }) as AsyncIterable<Buffer>) {
    let from = 0;
    for (let at = chunk.indexOf(LINE_FEED); at >= 0; at = chunk.indexOf(LINE_FEED, from)) {
      yield Buffer.concat([...held, chunk.subarray(from, at)]).toString();
      [held, bytes, from] = [[], 0, at + 1];
      line++;
    }
    held.push(chunk.subarray(from));
    bytes += chunk.length - from;
    if (bytes > constants.MAX_STRING_LENGTH) throw new Error(`line ${line} is longer than a line can be`);
  }
  if (bytes > 0) yield Buffer.concat(held).toString();
}
