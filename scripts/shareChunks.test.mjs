import { expect, test } from '@jest/globals';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { shareChunks } from './shareChunks.mjs';

test('what is written more than once is loaded once, and what differs stays as it is', () => {
  const folder = mkdtempSync(path.join(tmpdir(), 'shelf-chunks-'));
  try {
    const code = (n) => `module.exports = [\n${n}, ((c) => { ${'c(1);'.repeat(300)} }),\n];\n`;
    const chunk = (name, n) =>
      writeFileSync(path.join(folder, name), `${code(n)}\n//# sourceMappingURL=${name}.map`);
    chunk('a.js', 1);
    chunk('[root-of "it"]__b.js', 1);
    chunk('c.js', 2);
    writeFileSync(path.join(folder, 'd.js'), 'module.exports = 1;\n');
    writeFileSync(path.join(folder, 'e.js'), 'module.exports = 1;\n');
    expect(shareChunks(folder)).toBe(code(1).trimEnd().length + 1);
    const load = createRequire(path.join(folder, 'x.js'));
    expect(load('./a.js')).toBe(load('./[root-of "it"]__b.js'));
    expect(load('./a.js')[0]).toBe(1);
    expect(load('./c.js')[0]).toBe(2);
    for (const name of ['c.js', 'd.js', 'e.js'])
      expect(readFileSync(path.join(folder, name), 'utf8')).not.toContain('require(');
    // Done once more, there is nothing left to be saved.
    expect(shareChunks(folder)).toBe(0);
  } finally {
    rmSync(folder, { recursive: true });
  }
});
