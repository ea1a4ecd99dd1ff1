import { expect, test } from '@jest/globals';
import { ESLint } from 'eslint';
import { readdirSync } from 'node:fs';
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
  ['src/ui/platform/x.tsx', "import '../cards/Drawer';"],
])('%s may not hold %s', async (file, line) => expect(await refused(file, line)).toBe(true));

test.each([
  ['src/core/naming/x.ts', "import '../intake/shape';"],
  ['src/core/x.ts', "import 'zod';"],
  ['src/ui/overview/x.ts', "import '../../core/overview/shapes';"],
  ['src/server/x.ts', "import '../core/jobs/shapes';"],
  ['src/server/naming/x.ts', "import '../facts/readClips';"],
  ['src/server/naming/x.ts', "import '../../core/overview/shapes';"],
  ['src/app/api/x.ts', "import '../../server/runtime';"],
  ['src/app/x.ts', "import '../ui/platform/theme';"],
])('%s may hold %s', async (file, line) => expect(await refused(file, line)).toBe(false));

test.each(['core', 'server', 'ui'])(
  'every folder of %s is a room with its place in the order',
  async (layer) => {
    const { ROOMS } = (await import(pathToFileURL(path.resolve('rooms.mjs')).href)) as {
      ROOMS: Record<string, string[]>;
    };
    const folders = readdirSync(path.join('src', layer), { withFileTypes: true })
      .filter((e) => e.isDirectory())
      .map((e) => e.name);
    expect(folders.filter((f) => f !== 'testing').sort()).toEqual([...ROOMS[layer]!].sort());
  },
);
