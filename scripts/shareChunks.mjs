// Next's bundler writes the server's code anew for each of its routes: some ninety times the same three megabytes, of which each is read and
// compiled when its route is first asked for. Here every one but the first becomes a reference to that one, which Node.js loads once.
import { createHash } from 'node:crypto';
import { readdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';

/** Smaller ones than this are no gain. Bytes. */
const SMALL = 1000;

/** Goes through the chunks of a built server. Returns the bytes that were saved. */
export function shareChunks(folder) {
  const first = new Map();
  let saved = 0;
  for (const name of readdirSync(folder).sort()) {
    if (!name.endsWith('.js')) continue;
    const text = readFileSync(path.join(folder, name), 'utf8');
    // All that they differ in is the last line, which names a map that is not made.
    const code = text.replace(/\n\/\/# sourceMappingURL=.*\s*$/, '');
    if (code.length < SMALL || !code.startsWith('module.exports = [')) continue;
    const key = createHash('sha256').update(code).digest('hex');
    const same = first.get(key);
    if (same === undefined) first.set(key, name);
    else {
      writeFileSync(path.join(folder, name), `module.exports = require(${JSON.stringify(`./${same}`)});\n`);
      saved += code.length;
    }
  }
  return saved;
}
