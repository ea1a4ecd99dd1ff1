import { execa, ExecaError } from 'execa';
import path from 'node:path';
import type { DiskPath } from '../../core/names';
import { decodeText } from '../../core/containers/bytes';
import { ProbeOutput } from '../../core/facts/probe';
import { Unreadable } from '../errors';
import { asInput, FFPROBE, lastWords } from './tools';
import { open, readFile } from '../files/onDisk';

/** How long ffprobe may take for a file. Milliseconds; shorter in tests. */
export const probeLimits = { milliseconds: 60_000 };

/**
 * What ffprobe says of a file. `count` has every stream's packets counted, one pass over the whole file; else the
 * container's own count stands. Throws Unreadable with ffprobe's reason, also where it takes longer than its limit.
 */
export async function probe(file: DiskPath, options: { count?: boolean } = {}): Promise<ProbeOutput> {
  try {
    const { stdout } = await execa(FFPROBE(), [
      '-v', 'error', '-protocol_whitelist', 'file', '-show_format', '-show_streams', ...(options.count ? ['-count_packets'] : []),
      '-of', 'json', asInput(file),
    ], { timeout: probeLimits.milliseconds, forceKillAfterDelay: 2000, maxBuffer: 16 << 20 });
    const output = ProbeOutput.safeParse(parseJson(stdout));
    if (!output.success) throw new Unreadable(`${path.basename(file)}: ffprobe's answer was not understood.`, { file });
    return output.data;
  } catch (e) {
    if (e instanceof ExecaError) {
      const why = e.timedOut ? `it took longer than ${probeLimits.milliseconds / 1000} s to read` : lastWords(e.stderr).replace(asInput(file), path.basename(file));
      throw new Unreadable(`${path.basename(file)} cannot be read: ${why}`, { file, next: 'Copy it again from the card if you still have it.' });
    }
    throw e;
  }
}

/** `null` for what is no JSON. */
function parseJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

const BOXES = new Set(['ftyp', 'moov', 'mdat', 'free', 'skip', 'wide', 'uuid', 'pnot', 'udta', 'meta', 'moof', 'sidx', 'styp', 'emsg', 'mfra']);
/** The first bytes of every MXF partition pack key (SMPTE ST 377-1). */
const MXF_KEY = Buffer.from('060e2b34020501010d0102', 'hex');

/**
 * A quick look at a file whose name says video, without reading it all: is it that, and is it whole? `null` where
 * nothing is wrong; else what is, in words. MP4 and MOV are boxes of stated lengths (ISO/IEC 14496-12): a last box that
 * reaches past the end, or no `moov`, means a copy cut short.
 */
export async function sniff(file: DiskPath, size: number): Promise<{ footage: boolean; fault: string } | null> {
  const handle = await open(file, 'r');
  try {
    const head = Buffer.alloc(64);
    const { bytesRead } = await handle.read(head, 0, 64, 0);
    const start = head.subarray(0, bytesRead);
    const isMxf = start.indexOf(MXF_KEY) === 0;
    // Transport streams, with or without time stamps before each packet; RIFF; Matroska (EBML).
    if ((start[0] === 0x47 && bytesRead >= 4) || (start[4] === 0x47 && bytesRead >= 8 && !BOXES.has(start.toString('latin1', 4, 8))) || /^(?:RIFF|RF64|\x1aE\xdf\xa3)/.test(start.toString('latin1', 0, 4))) return null;
    const isBoxes = bytesRead >= 8 && BOXES.has(start.toString('latin1', 4, 8));
    if (!isMxf && !isBoxes) {
      const printable = start.every((b) => b === 9 || b === 10 || b === 13 || (b >= 32 && b < 127) || b >= 128);
      const zero = start.every((b) => b === 0);
      const what = zero ? 'begins with nothing but zeros' : printable ? 'is text' : 'is of no kind known here';
      return { footage: false, fault: `${what}, not video, whatever its name says` };
    }
    if (!isBoxes) return null;
    let at = 0;
    let moov = false;
    for (let n = 0; n < 4096 && at + 8 <= size; n++) {
      const { bytesRead: got } = await handle.read(head, 0, 16, at);
      if (got < 8) break;
      const kind = head.toString('latin1', 4, 8);
      let length = head.readUInt32BE(0);
      if (length === 1 && got >= 16) length = Number(head.readBigUInt64BE(8));
      if (length === 0) length = size - at;
      if (length < 8) break;
      if (kind === 'moov') moov = true;
      if (at + length > size) return { footage: true, fault: 'is cut short: it ends inside its data, the copy was not finished' };
      at += length;
    }
    return moov ? null : { footage: true, fault: 'has no index (no moov box): the copy or the recording was cut short' };
  } finally {
    await handle.close();
  }
}

/** Text of a sidecar, at most a megabyte; larger ones are no sidecars. */
export async function readSidecar(file: DiskPath, size: number): Promise<string> {
  if (size > 1 << 20) throw new Unreadable(`${path.basename(file)} is too large for a sidecar.`, { file });
  return decodeText(await readFile(file));
}
