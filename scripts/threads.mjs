// The code of worker threads, and of the process that reads records, each as one file: they start outside the application's bundle, and
// loading the sources one by one would take each of them a second or more.
import { mkdirSync, readdirSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { CACHE, ROOT } from './setup.mjs';

const THREADS = {
  transfer: 'src/server/transfer/thread.ts',
  reading: 'src/server/reading/readThread.ts',
  records: 'src/server/records/reader.ts',
  report: 'src/server/handover/reports/thread.ts',
  cardReader: 'src/demo/standIns/cardReader.ts',
};

export const THREADS_FOLDER = path.join(CACHE, 'threads');

/** Bundles what they run, in less than a second. What has not changed is not written: others may be loading it. */
export async function buildThreads() {
  const { build } = await import('esbuild');
  const { outputFiles } = await build({
    absWorkingDir: ROOT,
    entryPoints: THREADS,
    outdir: THREADS_FOLDER,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    // What loads a binary or a program of its own stays where it is.
    external: ['xxhash-addon', 'exiftool-vendored', 'pdfmake', 'fontkit'],
    banner: {
      js: "import { createRequire as requireFrom } from 'node:module'; const require = requireFrom(import.meta.url);",
    },
    write: false,
    logLevel: 'error',
  });
  mkdirSync(THREADS_FOLDER, { recursive: true });
  const old = new Set(readdirSync(THREADS_FOLDER).filter((f) => f.endsWith('.mjs')));
  for (const { path: file, contents } of outputFiles) {
    if (old.delete(path.basename(file)) && readFileSync(file).equals(contents)) continue;
    const part = `${file}.${process.pid}.part`;
    writeFileSync(part, contents);
    renameSync(part, file);
  }
  for (const file of old) rmSync(path.join(THREADS_FOLDER, file));
}
