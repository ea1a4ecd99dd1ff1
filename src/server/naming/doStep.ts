import { sameTime } from '../../core/custody';
import type { Step } from '../../core/naming/plan';
import type { StepState } from '../../core/naming/shapes';
import type { DiskPath } from '../../core/platform/names';
import { Clash, isCode, NotFound, Refused } from '../platform/errors';
import { inWords } from '../platform/files/faults';
import { flushFolder, linkFile, makeFolder, removeFile } from '../platform/files/fileSystem';
import { hashFile } from '../platform/files/hash';
import {
  areOneFile,
  checkUnchanged,
  dropClaim,
  dropHalf,
  isOfSample,
  moveFile,
  removeIfThere,
  settleMove,
} from '../platform/files/move';
import { lstat } from '../platform/files/onDisk';
import type { OnVolume } from '../platform/files/onVolume';
import { partName } from '../platform/files/partName';
import { resolveIn } from '../platform/files/paths';
import { copyVerified, removeCopy, STOPPED } from '../transfer';
import { listRoots, onVolumeOf, type Root } from '../places';
import type { Ports } from './ports';
import path from 'node:path';

/** Roots with the volume each is on; null where it is offline, or was not asked for. */
export type Roots = ReadonlyMap<string, Root & { on: OnVolume | null }>;

/** All roots; those of the `steps` as they are now. The volumes of others are not asked: one that does not answer is none of theirs. */
export async function rootsNow(
  runtime: Pick<Ports, 'db' | 'devices' | 'home'>,
  steps: readonly { fromRoot: string; toRoot: string }[],
): Promise<Roots> {
  const wanted = new Set(steps.flatMap((s) => [s.fromRoot, s.toRoot]));
  const roots = await Promise.all(
    (await listRoots(runtime)).map(async (r) => ({
      ...r,
      on: wanted.has(r.id) ? await onVolumeOf(runtime, r) : null,
    })),
  );
  return new Map(roots.map((r) => [r.id, r]));
}

/** Where a step leads from and to on this computer's disks. Throws NotFound where a root is none any longer. */
export async function placesOf(roots: Roots, s: Step): Promise<[DiskPath, DiskPath]> {
  const root = (id: string) => {
    const r = roots.get(id);
    if (!r) throw new NotFound('The root of this step no longer exists.', { file: s.from.path });
    return r;
  };
  return [await resolveIn(root(s.from.root), s.from.path), await resolveIn(root(s.to.root), s.to.path)];
}

/**
 * Does one step. Nothing is overwritten, and nothing goes that is not as it was when the plan was made. Where it fails, what is half done is
 * taken back.
 */
export const doStep = (roots: Roots, s: Step, gate?: SharedArrayBuffer): Promise<void> =>
  tryStep(roots, s, gate).catch((e: unknown) => settleFault(roots, s, e));

/**
 * Settles a step that failed: a change to the disk may have been made though its answer said that it was not. Throws the fault where the step
 * is not done.
 */
export async function settleFault(roots: Roots, s: Step, fault: unknown): Promise<void> {
  // What another file has taken, is not there, or a person stopped, was not begun: nothing at its place is of this step.
  const isBegun = !(fault instanceof Clash || fault instanceof NotFound) && !isCode(fault, STOPPED);
  const settled = isBegun ? await settle(roots, s).catch(() => null) : null;
  if (settled?.state !== 'done') throw fault;
}

/** The volume that a step leads to. Throws NotFound where it is offline: the folder it was mounted at may be there. */
function volumeOf(roots: Roots, { to }: Step): OnVolume {
  const root = roots.get(to.root);
  if (root?.on) return root.on;
  throw new NotFound(`“${root?.name}” is offline.`, { next: 'Connect its volume.' });
}

async function tryStep(roots: Roots, s: Step, gate?: SharedArrayBuffer): Promise<void> {
  const [from, to] = await placesOf(roots, s);
  switch (s.kind) {
    case 'move':
      return moveFile(from, to, s);
    case 'copy':
      await copyVerified(from, to, s, { gate, on: volumeOf(roots, s) });
      return;
    case 'uncopy':
      return removeCopy(from, to, s, gate);
    case 'carry':
      await copyVerified(from, to, s, { gate, on: volumeOf(roots, s) });
      await flushFolder(path.dirname(to));
      // Where it is gone by then, its copy is proven and is where it was to go.
      if ((await statOf(from)) !== null) {
        await checkUnchanged(from, s);
        await removeIfThere(from);
      }
      return flushFolder(path.dirname(from));
    case 'link':
      return link(from, to, s);
    case 'unlink':
      if (!(await areOneFile(from, to)))
        throw new Clash(`${path.basename(from)} is no longer the same file as ${path.basename(to)}.`, {
          file: from,
          next: 'Both are left as they are.',
        });
      await removeFile(from);
      return flushFolder(path.dirname(from));
  }
}

async function link(from: DiskPath, to: DiskPath, s: Step): Promise<void> {
  await checkUnchanged(from, s);
  await makeFolder(path.dirname(to));
  try {
    await linkFile(from, to);
  } catch (e) {
    if (isCode(e, 'EEXIST'))
      throw new Clash(`${path.basename(to)} is there already.`, {
        file: to,
        next: 'Move it away or choose another name.',
      });
    throw new Refused(`${path.basename(from)} cannot have a second name there: ${inWords(e)}`, {
      file: from,
      next: 'This volume has no hard links: have files moved or copied.',
    });
  }
  await flushFolder(path.dirname(to));
}

/** Of what nothing is at a path: null. What cannot be asked may be there, and is no answer. */
const nullIfGone = (e: unknown): null => {
  if (!isCode(e, 'ENOENT', 'ENOTDIR')) throw e;
  return null;
};
const statOf = (file: DiskPath) => lstat(file).catch(nullIfGone);

type Settled = { state: StepState; fault: string | null };
const WAITING: Settled = { state: 'waiting', fault: null };
const DONE: Settled = { state: 'done', fault: null };
const taken = (s: Step): Settled => ({ state: 'failed', fault: `another file has taken ${s.to.path}` });

/** How far a step had come that a crash or a fault interrupted, told from the disk; half of one is taken back. Throws where the disk does not say. */
export async function settle(roots: Roots, s: Step): Promise<Settled> {
  const [from, to] = await placesOf(roots, s);
  switch (s.kind) {
    case 'move': {
      const found = await settleMove(from, to, s);
      await (found === 'half' ? dropHalf(to) : found === 'done' ? dropClaim(to) : undefined);
      if (found === 'notBegun' || found === 'half') return WAITING;
      if (found === 'done') return DONE;
      return found === 'lost'
        ? { state: 'failed', fault: `${s.from.path} is at neither its old nor its new place` }
        : taken(s);
    }
    case 'link': {
      if (await areOneFile(from, to)) return DONE;
      return (await statOf(to)) === null ? WAITING : taken(s);
    }
    case 'unlink':
      return (await statOf(from)) === null ? DONE : WAITING;
    case 'carry': {
      await removeFile(partName(to)).catch(() => undefined);
      if ((await statOf(from)) === null) {
        const there = await statOf(to);
        const isIt =
          there !== null &&
          there.size === s.size &&
          sameTime(Math.round(there.mtimeMs), s.modified) &&
          (await isOfSample(to, s));
        return isIt
          ? DONE
          : { state: 'failed', fault: `${s.from.path} is at neither its old nor its new place` };
      }
      const same = await sameBytes(to, from);
      if (same === null) return WAITING;
      if (!same) return taken(s);
      // The copy was whole and the file still there: the copy goes, proven to be one, and the step is done anew.
      await removeCopy(to, from, s);
      return WAITING;
    }
    default: {
      const [source, copy] = s.kind === 'copy' ? [from, to] : [to, from];
      await removeFile(partName(copy)).catch(() => undefined);
      const same = await sameBytes(copy, source);
      if (s.kind === 'uncopy') return same === null ? DONE : WAITING;
      return same === null ? WAITING : same ? DONE : taken(s);
    }
  }
}

/** Whether a file holds the same bytes as its source; null where it is not there. Throws where one of them cannot be read. */
const sameBytes = (file: DiskPath, source: DiskPath): Promise<boolean | null> =>
  hashFile(file).then(async (h) => h === (await hashFile(source)), nullIfGone);
