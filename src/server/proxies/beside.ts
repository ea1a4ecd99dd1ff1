import { and, eq } from 'drizzle-orm';
import { cdlCube, cdlOf, chooseFacts, readCube, type Statement } from '../../core/facts';
import { type Beside, NOTHING_BESIDE } from '../../core/proxies/arguments';
import type { Recipe } from '../../core/proxies/recipe';
import { placeOf } from '../cards';
import { files } from '../cards/tables';
import { joinPath } from '../platform/files/names';
import { readFile, writeFile } from '../platform/files/onDisk';
import { readAll } from '../platform/files/plainFile';
import { rootById } from '../places';
import type { InJob } from './ports';

/** The face that name and timecode are written in: shipped with the application. */
const FACE = 'node_modules/@fontsource/jetbrains-mono/files/jetbrains-mono-latin-500-normal.woff2';

/** What `writeBeside` writes, after the name of what is made. */
export const BESIDE_ENDS = ['.cube', '.txt', '.woff2'] as const;

/** Puts into the folder what FFmpeg needs beside the clip itself, under the name of what is made: its look, its name, the face for both. */
export async function writeBeside(
  runtime: InJob,
  { clip, name, statements }: { clip: string; name: string; statements: readonly Statement[] },
  recipe: Recipe,
  folder: string,
  base: string,
): Promise<Beside> {
  const [look, text, face] = BESIDE_ENDS.map((end) => `${base}${end}`) as [string, string, string];
  const put = (file: string, contents: string | Uint8Array) => writeFile(joinPath(folder, file), contents);
  const beside: Beside = { ...NOTHING_BESIDE };
  if (recipe.look) {
    const found = await lookOf(runtime, clip, statements);
    if (found) {
      await put(look, found.cube);
      beside.look = { file: look, kind: found.kind, graded: found.graded };
    }
  }
  if (recipe.burn.name || recipe.burn.timecode) {
    await put(text, name);
    await put(face, await readFile(joinPath(process.cwd(), FACE)));
    beside.name = text;
    beside.face = face;
  }
  return beside;
}

/** A clip's look as a table: its lookup table where it has one, else what its CDL makes. Null where it has neither. */
async function lookOf(
  runtime: InJob,
  clip: string,
  statements: readonly Statement[],
): Promise<{ cube: string; kind: '1D' | '3D'; graded: boolean } | null> {
  const tables = (
    await runtime.db
      .select()
      .from(files)
      .where(and(eq(files.clip, clip), eq(files.role, 'look')))
  ).filter((f) => f.path.toLowerCase().endsWith('.cube'));
  for (const table of tables) {
    const text = (await readAll(await placeOf(await rootById(runtime, table.root), table), MOST)).toString(
      'latin1',
    );
    const cube = readCube(text);
    if (cube) return { cube: text, kind: cube.kind, graded: false };
  }
  const cdl = cdlOf(chooseFacts(statements));
  return cdl && { cube: cdlCube(cdl), kind: '3D', graded: true };
}

/** Bytes of a lookup table that is read. */
const MOST = 64 << 20;
