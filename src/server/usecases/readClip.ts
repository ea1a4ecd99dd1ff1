import { eq } from 'drizzle-orm';
import path from 'node:path';
import type { Statement } from '../../core/facts/catalogue';
import { chooseFacts, text } from '../../core/facts/facts';
import { pictureStream, type ProbeOutput, statementsFromProbe } from '../../core/facts/probe';
import { statementsFromSidecar } from '../../core/facts/sidecar';
import type { FileRole } from '../../core/cards/shape';
import { cameras, cards, clips, files } from '../db/schema';
import { isCode, messageOf } from '../errors';
import { resolveIn } from '../files/paths';
import { probe, readSidecar, sniff } from '../media/probe';
import { parseXml } from '../media/xml';
import type { WorkContext } from '../jobs/queue';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { provePairsOf } from './provePairs';
import { rootById } from './roots';

export interface FileOnDisk { role: FileRole; file: string; size: number; modified: number }

/** Everything a clip's family says about it, without a database. `fault` where the original itself cannot be read. */
export async function readStatements(family: readonly FileOnDisk[], zoneMinutes: number): Promise<{ statements: Statement[]; audio: number[]; fault: string | null }> {
  const statements: Statement[] = [];
  let audio: number[] = [];
  let fault: string | null = null;
  const original = family.find((f) => f.role === 'original');
  if (original) {
    try {
      const wrong = await sniff(original.file, original.size);
      if (wrong) fault = `${path.basename(original.file)} ${wrong.fault}`;
      else {
        const output = await probe(original.file);
        if (pictureStream(output)) {
          statements.push(...statementsFromProbe(output, { zoneMinutes, modified: new Date(original.modified) }));
          audio = audioStreams(output);
        } else fault = `${path.basename(original.file)} holds no picture`;
      }
    } catch (e) {
      fault = isCode(e, 'ENOENT') ? `${path.basename(original.file)} is not there any more` : messageOf(e);
    }
  }
  for (const sidecar of family.filter((f) => f.role === 'sidecar' && f.file.toLowerCase().endsWith('.xml'))) {
    // A sidecar that cannot be read says nothing; the clip is none the worse for it.
    const node = await readSidecar(sidecar.file, sidecar.size).then(parseXml).catch(() => null);
    if (node) statements.push(...statementsFromSidecar(node, zoneMinutes));
  }
  return { statements, audio, fault };
}

export const audioStreams = (p: ProbeOutput): number[] => p.streams.filter((s) => s.codec_type === 'audio').map((s) => s.channels ?? 0);

/** Reads a clip's facts, adopts its camera-made proxy, and asks for its filmstrip. */
export async function readClip(runtime: Runtime, { clip }: Pick<WorkContext, 'clip'>): Promise<void> {
  const job = await theJob(runtime);
  const rows = await runtime.db.select().from(files).where(eq(files.clip, clip));
  const family: FileOnDisk[] = [];
  for (const row of rows) {
    const root = await rootById(runtime, row.root);
    family.push({ role: row.role, file: await resolveIn(root, row.path), size: row.size, modified: row.modified });
  }
  const { statements, audio, fault } = await readStatements(family, job.zoneMinutes);
  // What the person said stays: it is no reading.
  const [before] = await runtime.db.select({ statements: clips.statements, card: clips.card }).from(clips).where(eq(clips.id, clip));
  if (!before) return;
  const kept = before.statements.filter((s) => s.source === 'person');
  await runtime.db.update(clips).set({ statements: [...statements, ...kept], audio, fault, state: fault === null ? 'read' : 'unreadable' }).where(eq(clips.id, clip));
  const model = text(chooseFacts(statements), 'model');
  if (model) await rememberModel(runtime, before.card, model);
  if (fault === null) {
    await provePairsOf(runtime, clip);
    await runtime.queue.add('filmstrip', [clip]);
  }
}

/** A camera whose model nobody has said is the model its clips state. */
async function rememberModel(runtime: Runtime, cardId: string, model: string): Promise<void> {
  const [row] = await runtime.db.select({ letter: cameras.letter, model: cameras.model }).from(cards).innerJoin(cameras, eq(cards.camera, cameras.letter)).where(eq(cards.id, cardId));
  if (!row || row.model !== null) return;
  await runtime.db.update(cameras).set({ model }).where(eq(cameras.letter, row.letter));
  runtime.events.changed('job');
}
