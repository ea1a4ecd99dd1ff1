import { randomUUID } from 'node:crypto';
import { shownPath } from '../../core/platform/names';
import type { LogKind } from '../../core/logbook/shapes';
import { log } from '../platform/db/schema';
import type { Runtime } from '../runtime';

/** Writes one line of the logbook. */
export async function writeLog(
  runtime: Pick<Runtime, 'db' | 'who'>,
  kind: LogKind,
  text: string,
  plan: string | null = null,
): Promise<void> {
  await runtime.db
    .insert(log)
    .values({ id: randomUUID(), at: new Date(), who: runtime.who, kind, text: shownPath(text), plan });
}
