import { eq } from 'drizzle-orm';
import path from 'node:path';
import type { Statement } from '../../core/facts/catalogue';
import { chooseFacts, text } from '../../core/facts/facts';
import { pictureStream, type ProbeOutput, statementsFromProbe } from '../../core/facts/probe';
import { statementsFromSidecar } from '../../core/facts/sidecar';
import type { ClipKind, FileRole } from '../../core/cards/shape';
import { cameras, cards, clips, files } from '../db/schema';
import { isCode, messageOf, Unreadable } from '../errors';
import { resolveIn } from '../files/paths';
import { probe, readSidecar, sniff } from '../media/probe';
import { parseXml } from '../media/xml';
import type { WorkContext } from '../jobs/queue';
import type { Runtime } from '../runtime';
import { theJob } from './job';
import { provePairsOf } from './provePairs';
import { listRoots } from './roots';

export interface FileOnDisk { role: FileRole; file: string; size: number; modified: number }

/** A clip on disk as it is read: its kind, and every file of its family. */
export interface ClipOnDisk { kind: ClipKind; files: readonly FileOnDisk[] }

/** Everything a clip's family says about it, without a database. `fault` where the original itself cannot be read. */
export async function readStatements(clip: ClipOnDisk, options: { zoneMinutes: number; stillsRate: number }): Promise<{ statements: Statement[]; audio: number[]; fault: string | null }> {
  const { zoneMinutes } = options;
  const statements: Statement[] = [];
  let audio: number[] = [];
  let fault: string | null = null;
  const original = clip.files.find((f) => f.role === 'original');
  try {
    if (original) {
      const read = await readOriginal(clip, original, options);
      statements.push(...read.statements);
      audio = read.audio;
    }
  } catch (e) {
    fault = isCode(e, 'ENOENT') ? `${path.basename(original!.file)} is not there any more` : messageOf(e);
  }
  for (const f of clip.files.filter((x) => x.role === 'sidecar' && /\.xml$/i.test(x.file))) {
    // A sidecar that cannot be read takes nothing from the clip: its facts are simply not there.
    const node = await readSidecar(f.file, f.size).then(parseXml).catch(() => null);
    if (node) statements.push(...statementsFromSidecar(node, zoneMinutes));
  }
  return { statements, audio, fault };
}

async function readOriginal(clip: ClipOnDisk, original: FileOnDisk, options: { zoneMinutes: number; stillsRate: number }): Promise<{ statements: Statement[]; audio: number[] }> {
  const name = path.basename(original.file);
  const modified = new Date(original.modified);
  const unreadable = (why: string) => new Unreadable(`${name} ${why}`, { file: original.file });
  if (clip.kind === 'still' && /\.(?:dng|raw)$/i.test(name)) return { statements: [atFileTime(modified, options.zoneMinutes)], audio: [] };
  const wrong = clip.kind === 'video' ? await sniff(original.file, original.size) : null;
  if (wrong) throw unreadable(wrong.fault);
  const output = await probe(original.file);
  const said = statementsFromProbe(output, { zoneMinutes: options.zoneMinutes, modified });
  if (clip.kind === 'sound') {
    if (audioStreams(output).length === 0) throw unreadable('holds no sound');
    return { statements: said, audio: audioStreams(output) };
  }
  if (!pictureStream(output)) throw unreadable('holds no picture');
  if (clip.kind === 'still' || clip.kind === 'stills') {
    const rest: Statement[] = clip.kind === 'still' ? [] : [
      { field: 'rate', value: { type: 'rate', rate: { num: options.stillsRate, den: 1 } }, source: 'person' },
      { field: 'frames', value: { type: 'count', count: clip.files.filter((f) => f.role === 'original' || f.role === 'still').length }, source: 'container' },
    ];
    // A picture has no length of its own; what its reader takes for one is left out.
    return { statements: [...said.filter((s) => !['rate', 'frames', 'baseRate', 'start', 'recordedAt'].includes(s.field)), atFileTime(modified, options.zoneMinutes), ...rest], audio: [] };
  }
  const audio = audioStreams(output);
  let frames = 0;
  for (const f of clip.files.filter((x) => x.role === 'segment')) {
    const cut = await sniff(f.file, f.size);
    if (cut) throw unreadable(`goes on in ${path.basename(f.file)}, which ${cut.fault}`);
    const further = statementsFromProbe(await probe(f.file), { zoneMinutes: options.zoneMinutes }).find((s) => s.field === 'frames')?.value;
    frames += further?.type === 'count' ? further.count : 0;
  }
  for (const f of clip.files.filter((x) => x.role === 'sound')) audio.push(...audioStreams(await probe(f.file)));
  return { audio, statements: said.map((s): Statement =>
    (s.field === 'frames' && s.value.type === 'count' ? { ...s, value: { type: 'count', count: s.value.count + frames } }
      : s.field === 'channels' ? { ...s, value: { type: 'count', count: audio.reduce((n, c) => n + c, 0) } } : s)) };
}

const atFileTime = (modified: Date, zoneMinutes: number): Statement => ({
  field: 'recordedAt', source: 'fileTime', value: { type: 'moment', moment: { local: new Date(modified.getTime() + zoneMinutes * 60_000).toISOString().slice(0, 19), offset: zoneMinutes } },
});

export const audioStreams = (p: ProbeOutput): number[] => p.streams.filter((s) => s.codec_type === 'audio').map((s) => s.channels ?? 0);

/** Reads a clip's facts, adopts its camera-made proxy, and asks for its filmstrip. */
export async function readClip(runtime: Runtime, { clip }: Pick<WorkContext, 'clip'>): Promise<void> {
  const job = await theJob(runtime);
  const [before] = await runtime.db.select({ kind: clips.kind, statements: clips.statements, card: clips.card }).from(clips).where(eq(clips.id, clip));
  if (!before) return;
  const rows = await runtime.db.select().from(files).where(eq(files.clip, clip));
  const roots = new Map((await listRoots(runtime)).map((r) => [r.id, r]));
  const family = await Promise.all(rows.map(async (row): Promise<FileOnDisk> => ({
    role: row.role, file: await resolveIn(roots.get(row.root)!, row.path), size: row.size, modified: row.modified,
  })));
  const { statements, audio, fault } = await readStatements({ kind: before.kind, files: family }, { zoneMinutes: job.zoneMinutes, stillsRate: job.intake.stillsRate });
  // What the person said stays: it is no reading.
  const kept = before.statements.filter((s) => s.source === 'person' && !statements.some((n) => n.field === s.field && n.source === 'person'));
  await runtime.db.update(clips).set({ statements: [...statements, ...kept], audio, fault, state: fault === null ? 'read' : 'unreadable' }).where(eq(clips.id, clip));
  const model = text(chooseFacts(statements), 'model');
  if (model) await rememberModel(runtime, before.card, model);
  if (fault === null) {
    await provePairsOf(runtime, clip);
    if (before.kind !== 'sound') await runtime.queue.add('filmstrip', [clip]);
  }
}

/** A camera whose model nobody has said is the model its clips state. */
async function rememberModel(runtime: Runtime, cardId: string, model: string): Promise<void> {
  const [row] = await runtime.db.select({ letter: cameras.letter, model: cameras.model }).from(cards).innerJoin(cameras, eq(cards.camera, cameras.letter)).where(eq(cards.id, cardId));
  if (!row || row.model !== null) return;
  await runtime.db.update(cameras).set({ model }).where(eq(cameras.letter, row.letter));
  runtime.events.changed('job');
}
