import { expect, test } from '@jest/globals';
import { ESLint } from 'eslint';

// The lint rule that holds the arrows between the layers, tried on imports it must refuse and ones it must let pass.
const eslint = new ESLint();
async function refused(file: string, line: string): Promise<boolean> {
  const [result] = await eslint.lintText(`${line}\n`, { filePath: file });
  return result!.messages.some((m) => m.ruleId === 'no-restricted-imports');
}

test.each([
  ['src/core/plan/x.ts', "import '../../server/db/client';"],
  ['src/core/plan/x.ts', "import 'node:fs';"],
  ['src/core/plan/x.ts', "import 'react';"],
  ['src/core/x.ts', "import '../ui/theme';"],
  ['src/ui/wall/x.ts', "import '../../server/runtime';"],
  ['src/ui/wall/x.ts', "import 'drizzle-orm';"],
  ['src/ui/wall/x.ts', "import 'node:path';"],
  ['src/server/usecases/x.ts', "import '../../ui/client';"],
  ['src/server/x.ts', "import '../app/api/answer';"],
  ['src/server/x.ts', "import 'react';"],
])('%s may not hold %s', async (file, line) => expect(await refused(file, line)).toBe(true));

test.each([
  ['src/core/plan/x.ts', "import '../cards/shape';"],
  ['src/core/x.ts', "import 'zod';"],
  ['src/ui/wall/x.ts', "import '../../core/shapes';"],
  ['src/server/x.ts', "import '../core/shapes';"],
  ['src/app/api/x.ts', "import '../../server/runtime';"],
  ['src/app/x.ts', "import '../ui/theme';"],
])('%s may hold %s', async (file, line) => expect(await refused(file, line)).toBe(false));
