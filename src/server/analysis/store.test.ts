import { expect, test } from '@jest/globals';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { SMALL } from '../../core/analysis';
import { keepSamples, keptSamples } from './store';

test('pictures that are kept of one clip by several at once are whole, of its original as it was, and leave nothing else', async () => {
  const home = mkdtempSync(path.join(tmpdir(), 'shelf-analysis-'));
  try {
    const sampled = {
      frames: [0, 9],
      pictures: [1, 2].map((v) => new Uint8Array(SMALL.width * SMALL.height).fill(v)),
    };
    await Promise.all(Array.from({ length: 8 }, () => keepSamples({ home }, 'clip', '5-7', sampled)));
    expect(await keptSamples({ home }, 'clip', '5-7')).toEqual(sampled);
    expect(await keptSamples({ home }, 'clip', '5-8')).toBeNull();
    expect(await keptSamples({ home }, 'another', '5-7')).toBeNull();
    expect(readdirSync(path.join(home, 'cache', 'samples'))).toEqual(['clip.json']);
  } finally {
    rmSync(home, { recursive: true });
  }
});
