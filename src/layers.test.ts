import { expect, test } from '@jest/globals';
import { ESLint } from 'eslint';
import { readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';

// The lint rules that hold the arrows between layers and between rooms, tried on imports they must refuse and ones they must let pass.
const RULE = 'no-restricted-imports';
const eslint = new ESLint({
  // That rule needs no types, and the files are made up.
  ruleFilter: ({ ruleId }) => ruleId === RULE,
  overrideConfig: { languageOptions: { parserOptions: { projectService: false } } },
});
async function refused(file: string, line: string): Promise<boolean> {
  const [result] = await eslint.lintText(`${line}\n`, { filePath: file });
  expect(result!.messages.filter((m) => m.fatal)).toEqual([]);
  return result!.messages.some((m) => m.ruleId === RULE);
}

test.each([
  ['src/core/naming/x.ts', "import '../../server/platform/db/client';"],
  ['src/core/naming/x.ts', "import 'node:fs';"],
  ['src/core/naming/x.ts', "import 'react';"],
  ['src/core/x.ts', "import '../ui/platform/theme';"],
  ['src/ui/overview/x.ts', "import '../../server/runtime';"],
  ['src/ui/overview/x.ts', "import 'drizzle-orm';"],
  ['src/ui/overview/x.ts', "import 'node:path';"],
  ['src/server/naming/x.ts', "import '../../ui/platform/client';"],
  ['src/server/x.ts', "import '../app/api/answer';"],
  ['src/server/x.ts', "import 'react';"],
  ['src/demo/x.ts', "import '../ui/platform/theme';"],
  // Rooms: never those after it.
  ['src/core/platform/x.ts', "import '../facts/catalogue';"],
  ['src/core/offload/timecode/x.ts', "import '../../custody/wipe';"],
  ['src/server/facts/x.ts', "import '../naming/naming';"],
  ['src/server/platform/files/x.ts', "import '../../places/roots';"],
  ['src/ui/platform/x.tsx', "import '../cards';"],
  // What they work with they are given.
  ['src/server/facts/x.ts', "import type { Runtime } from '../runtime';"],
  ['src/server/platform/work/x.ts', "import '../../handlers';"],
  // Another room by its front door only.
  ['src/server/naming/x.ts', "import '../facts/readClips';"],
  ['src/server/naming/x.ts', "import '../../core/intake/shape';"],
  ['src/core/naming/x.ts', "import '../intake/shape';"],
  ['src/ui/overview/x.tsx', "import '../../core/cards/shapes';"],
  ['src/app/api/x.ts', "import '../../server/naming/naming';"],
  ['src/server/x.ts', "import './naming/naming';"],
  ['src/demo/x.ts', "import '../server/naming/naming';"],
])('%s may not hold %s', async (file, line) => expect(await refused(file, line)).toBe(true));

test.each([
  ['src/core/naming/x.ts', "import '../intake';"],
  ['src/core/naming/x.ts', "import '../platform/timecode/rate';"],
  ['src/core/x.ts', "import 'zod';"],
  ['src/ui/overview/x.ts', "import '../../core/overview/shapes';"],
  ['src/ui/custody/x.tsx', "import '../offload/offload.module.css';"],
  ['src/server/naming/x.ts', "import '../facts';"],
  ['src/server/naming/x.ts', "import '../../core/naming/plan';"],
  ['src/server/naming/x.ts', "import './naming';"],
  ['src/app/api/x.ts', "import '../../server/runtime';"],
  ['src/server/facts/x.ts', "import type { Services } from '../services';"],
  ['src/app/x.ts', "import '../ui/platform/theme';"],
])('%s may hold %s', async (file, line) => expect(await refused(file, line)).toBe(false));

test.each(['core', 'server', 'ui'])(
  'every folder of %s is a room with its place in the order, and the picture shows it',
  async (layer) => {
    const { ROOMS } = (await import(pathToFileURL(path.resolve('rooms.mjs')).href)) as {
      ROOMS: Record<string, string[]>;
    };
    const rooms = ROOMS[layer]!;
    const folders = readdirSync(path.join('src', layer), { withFileTypes: true })
      .filter((e) => e.isDirectory() && e.name !== 'testing')
      .map((e) => e.name);
    expect(folders.sort()).toEqual([...rooms].sort());
    const drawn = readFileSync('docs/parts.md', 'utf8')
      .split('\n')
      .find((l) => l.trim().startsWith(`${layer} `) && l.includes('◄'))!;
    expect(drawn.trim().slice(layer.length).trim().split(' ◄ ')).toEqual(rooms);
  },
);
