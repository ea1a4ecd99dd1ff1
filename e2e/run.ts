import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

/** Makes the folder of what the tests of a run have in common. Resolves with what removes it. */
export default function run(): () => void {
  const folder = mkdtempSync(path.join(tmpdir(), 'shelf-e2e-run-'));
  process.env.SORT_SHELF_E2E_RUN = folder;
  return () => rmSync(folder, { recursive: true, force: true });
}
