import { type Bytes } from './bytes';

// What mediabunny does not give of MP4 and MOV: timecode tracks, user data, colour, field and pixel boxes, exact times.
// ISO/IEC 14496-12 and the QuickTime File Format Specification, both from memory; checked against ffprobe, ExifTool and
// MediaInfo in `src/server/reading/matrix.test.ts`.

export interface Box {
  type: string;
  body: Bytes;
}

/** Boxes in a row. A box that claims more than there is ends the row. */
export function* boxesIn(data: Bytes, from = 0): Generator<Box> {
  for (let at = from; at + 8 <= data.length;) {
    let size = data.u32(at);
    let head = 8;
    if (size === 1) {
      size = data.u64(at + 8);
      head = 16;
    } else if (size === 0) size = data.length - at;
    if (size < head || at + size > data.length) return;
    yield { type: data.latin(at + 4, at + 8), body: data.slice(at + head, at + size) };
    at += size;
  }
}

const first = (data: Bytes, ...path: string[]): Bytes | null => {
  let at: Bytes | null = data;
  for (const type of path) {
    at = at && ([...boxesIn(at)].find((b) => b.type === type)?.body ?? null);
  }
  return at;
};

export interface TimecodeTrack {
  drop: boolean;
  /** Ticks of its clock a second, and ticks a frame: together the exact rate. */
  timescale: number;
  frameDuration: number;
  /** Frames the address counts in a second. */
  framesPerSecond: number;
  /** Where its first sample, a 32-bit frame number, is in the file; `null` where it has none. */
  sampleAt: number | null;
  /** The reel it counts on, "" where it does not say. */
  reel: string;
}

export interface MovieTrack {
  kind: 'picture' | 'sound' | 'timecode' | 'other';
  /** Four-character code of the handler and of the sample description. */
  handler: string;
  tag: string;
  /** Seconds since 1904-01-01 UTC. 0 where it was never set. */
  created: number;
  timescale: number;
  /** Ticks of the timescale. */
  duration: number;
  /** Samples the index lists: frames of a picture. */
  samples: number;
  /** Bytes of all samples. */
  bytes: number;
  /** Duration of a sample in ticks where all (but the last) have the same; `null` where they vary. */
  delta: number | null;
  /** The shortest and the longest sample in ticks where they vary by more than the clock is coarse; `null` where they do not. */
  varies: { least: number; most: number } | null;
  /** Samples another can be decoded from alone; `null` where each can. */
  syncSamples: number | null;
  width: number;
  height: number;
  /** Degrees clockwise: 0, 90, 180 or 270. */
  rotation: number;
  /** Codes of ITU-T H.273; `full` is `null` where the box does not say. */
  colour: { primaries: number; transfer: number; matrix: number; full: boolean | null } | null;
  /** Content light levels in cd/m² (CTA-861), and the luminance of the mastering display in ten-thousandths of it (SMPTE ST 2086). */
  light: { brightest: number; average: number } | null;
  mastering: { least: number; most: number } | null;
  pixelAspect: { num: number; den: number } | null;
  /** Fields a frame, and their order as the QuickTime format numbers it. */
  fields: { count: number; order: number } | null;
  /** Decoder configuration: the body of `avcC`, `hvcC`, `av1C` or `vpcC`. */
  config: { type: string; data: Uint8Array } | null;
  compressor: string;
  sound: { channels: number; sampleRate: number; bits: number } | null;
  timecode: TimecodeTrack | null;
}

export interface Movie {
  brand: string;
  /** Seconds since 1904-01-01 UTC. 0 where it was never set. */
  created: number;
  timescale: number;
  duration: number;
  tracks: MovieTrack[];
  /** What user data and metadata say: the key as it is there ("©mak", "com.example.model"), and its text. */
  tags: { key: string; text: string }[];
  fragmented: boolean;
  /** Boxes and tracks that may hold more of a camera's own words than is read here; ExifTool may know them. */
  unread: string[];
}

const HANDLERS: Record<string, MovieTrack['kind']> = { vide: 'picture', soun: 'sound', tmcd: 'timecode' };
/** Parts of user data and metadata that hold nothing a field wants. */
const EMPTY_TALK = new Set([
  'name',
  'hnti',
  'hinf',
  'free',
  'skip',
  'wide',
  'WLOC',
  'LOOP',
  'SelO',
  'AllF',
  'ptv ',
  'tagc',
  'meta',
  'iods',
  'hdlr',
  'thmb',
  'snal',
]);

/** Reads the `moov` box's body. `brand` is of the `ftyp` box. */
export function readMovie(moov: Bytes, brand: string): Movie {
  const movie: Movie = {
    brand,
    created: 0,
    timescale: 0,
    duration: 0,
    tracks: [],
    tags: [],
    fragmented: false,
    unread: [],
  };
  for (const { type, body } of boxesIn(moov)) {
    if (type === 'mvhd') Object.assign(movie, times(body, 4));
    else if (type === 'trak') {
      if (movie.tracks.length < 64) movie.tracks.push(readTrack(body, movie));
    } else if (type === 'udta') readUserData(body, movie);
    else if (type === 'meta') readMeta(body, movie);
    else if (type === 'mvex') movie.fragmented = true;
    else if (type === 'uuid' || !/^(?:free|skip|wide|iods|ctab|prfl|clip)$/.test(type))
      movie.unread.push(type);
  }
  return movie;
}

/** Creation, timescale and duration of `mvhd` and `mdhd`, which are laid out alike. */
function times(b: Bytes, at: number): { created: number; timescale: number; duration: number } {
  return b.u8(0) === 1
    ? { created: b.u64(at), timescale: b.u32(at + 16), duration: b.u64(at + 20) }
    : {
        created: b.u32(at),
        timescale: b.u32(at + 8),
        duration: b.u32(at + 12) === 0xffffffff ? 0 : b.u32(at + 12),
      };
}

function readTrack(trak: Bytes, movie: Movie): MovieTrack {
  const track: MovieTrack = {
    kind: 'other',
    handler: '',
    tag: '',
    created: 0,
    timescale: 0,
    duration: 0,
    samples: 0,
    bytes: 0,
    delta: null,
    varies: null,
    syncSamples: null,
    width: 0,
    height: 0,
    rotation: 0,
    colour: null,
    light: null,
    mastering: null,
    pixelAspect: null,
    fields: null,
    config: null,
    compressor: '',
    sound: null,
    timecode: null,
  };
  const [tkhd, mdhd, hdlr, stbl] = [
    first(trak, 'tkhd'),
    first(trak, 'mdia', 'mdhd'),
    first(trak, 'mdia', 'hdlr'),
    first(trak, 'mdia', 'minf', 'stbl'),
  ];
  if (mdhd) Object.assign(track, times(mdhd, 4));
  if (hdlr) track.handler = hdlr.latin(8, 12);
  track.kind = HANDLERS[track.handler] ?? 'other';
  if (tkhd) track.rotation = rotationOf(tkhd, tkhd.u8(0) === 1 ? 52 : 40);
  const udta = first(trak, 'udta');
  if (udta) readUserData(udta, movie);
  if (!stbl) return track;
  const parts = new Map([...boxesIn(stbl)].map((b) => [b.type, b.body]));
  const stsd = parts.get('stsd');
  const [entry] = stsd ? [...boxesIn(stsd, 8)] : [];
  if (entry) {
    track.tag = entry.type;
    if (track.kind === 'picture') readPicture(entry.body, track);
    else if (track.kind === 'sound') readSound(entry.body, track);
    else if (track.kind === 'timecode') track.timecode = readTimecode(entry.body, parts);
  }
  // A text, metadata or camera-motion track may say more: only ExifTool knows some of them.
  if (track.kind === 'other' && !/^(?:hint|url |alis)$/.test(track.handler))
    movie.unread.push(`track ${track.handler || '?'}`);
  readSamples(parts, track);
  return track;
}

/** The matrix of a track header as a turn of whole quarters; anything else counts as none. 16.16 fixed point. */
function rotationOf(tkhd: Bytes, at: number): number {
  const [a, b, c, d] = [tkhd.i32(at), tkhd.i32(at + 4), tkhd.i32(at + 12), tkhd.i32(at + 16)].map(
    Math.sign,
  ) as [number, number, number, number];
  if (a === 0 && b === 1 && c === -1 && d === 0) return 90;
  if (a === -1 && b === 0 && c === 0 && d === -1) return 180;
  return a === 0 && b === -1 && c === 1 && d === 0 ? 270 : 0;
}

function readSamples(parts: ReadonlyMap<string, Bytes>, track: MovieTrack): void {
  const [stts, stsz, stss] = [parts.get('stts'), parts.get('stsz'), parts.get('stss')];
  if (stss) track.syncSamples = stss.u32(4);
  if (stts) {
    const entries = Math.min(stts.u32(4), Math.floor((stts.length - 8) / 8));
    const durations = new Map<number, number>();
    for (let i = 0; i < entries; i++)
      durations.set(stts.u32(12 + 8 * i), (durations.get(stts.u32(12 + 8 * i)) ?? 0) + stts.u32(8 + 8 * i));
    track.samples = [...durations.values()].reduce((n, c) => n + c, 0);
    const usual = [...durations].sort((x, y) => y[1] - x[1])[0];
    if (usual && track.samples - usual[1] <= 1) track.delta = usual[0];
    else {
      const ticks = [...durations.keys()].filter((d) => d > 0);
      const [least, most] = [
        ticks.reduce((a, b) => Math.min(a, b), Infinity),
        ticks.reduce((a, b) => Math.max(a, b), 0),
      ];
      // A clock that a frame is no whole number of ticks of gives frames of two lengths, one tick apart.
      if (most - least > 1) track.varies = { least, most };
    }
  }
  if (!stsz) return;
  const [size, count] = [stsz.u32(4), stsz.u32(8)];
  if (size > 0) track.bytes = size * count;
  else
    for (let i = 0, n = Math.min(count, Math.floor((stsz.length - 12) / 4)); i < n; i++)
      track.bytes += stsz.u32(12 + 4 * i);
}

function readPicture(entry: Bytes, track: MovieTrack): void {
  track.width = entry.u16(24);
  track.height = entry.u16(26);
  track.compressor = entry.text(43, 43 + Math.min(31, entry.u8(42)));
  for (const { type, body } of boxesIn(entry, 78)) {
    if (type === 'colr' && /^ncl[cx]$/.test(body.latin(0, 4))) {
      track.colour = {
        primaries: body.u16(4),
        transfer: body.u16(6),
        matrix: body.u16(8),
        full: body.latin(0, 4) === 'nclx' ? (body.u8(10) & 0x80) !== 0 : null,
      };
    } else if (type === 'pasp' && body.u32(0) > 0 && body.u32(4) > 0)
      track.pixelAspect = { num: body.u32(0), den: body.u32(4) };
    else if (type === 'clli') track.light = { brightest: body.u16(0), average: body.u16(2) };
    else if (type === 'mdcv') track.mastering = { most: body.u32(16), least: body.u32(20) };
    else if (type === 'fiel') track.fields = { count: body.u8(0), order: body.u8(1) };
    else if (/^(?:avcC|hvcC|av1C|vpcC)$/.test(type)) track.config = { type, data: body.data };
  }
}

/** Sound descriptions of version 0, 1 and 2 (QuickTime). */
function readSound(entry: Bytes, track: MovieTrack): void {
  if (entry.u16(8) === 2) {
    const rate = new DataView(entry.data.buffer, entry.data.byteOffset, entry.length);
    track.sound = {
      channels: entry.u32(40),
      sampleRate: entry.length >= 40 ? rate.getFloat64(32) : 0,
      bits: entry.u32(48),
    };
  } else track.sound = { channels: entry.u16(16), sampleRate: entry.u16(24), bits: entry.u16(18) };
}

function readTimecode(entry: Bytes, parts: ReadonlyMap<string, Bytes>): TimecodeTrack | null {
  const [timescale, frameDuration, framesPerSecond] = [entry.u32(16), entry.u32(20), entry.u8(24)];
  if (timescale === 0 || frameDuration === 0) return null;
  const [stco, co64] = [parts.get('stco'), parts.get('co64')];
  const name = first(entry.slice(26, entry.length), 'name');
  const at = stco && stco.u32(4) > 0 ? stco.u32(8) : co64 && co64.u32(4) > 0 ? co64.u64(8) : null;
  return {
    drop: (entry.u32(12) & 1) === 1,
    timescale,
    frameDuration,
    framesPerSecond,
    sampleAt: at !== null && Number.isSafeInteger(at) ? at : null,
    reel: name ? name.text(4, 4 + name.u16(0)) : '',
  };
}

/** User data: QuickTime's text entries ("©mak": length, language, text), 3GPP's places, and metadata inside it. */
function readUserData(udta: Bytes, movie: Movie): void {
  for (const { type, body } of boxesIn(udta)) {
    if (type === 'meta') readMeta(body, movie);
    else if (type.startsWith('\u00a9')) {
      const length = body.u16(0);
      if (length > 0 && length + 4 <= body.length)
        movie.tags.push({ key: type, text: body.text(4, 4 + length) });
    } else if (type === 'loci') movie.tags.push(...placeOf(body));
    else if (!EMPTY_TALK.has(type) && body.length > 0) movie.unread.push(`udta ${type}`);
  }
}

/** 3GPP TS 26.244, from memory: a name, a role, then longitude, latitude and altitude in 16.16 degrees and metres. */
function placeOf(loci: Bytes): { key: string; text: string }[] {
  let at = 6;
  while (at < loci.length && loci.u8(at) !== 0) at++;
  at += 2;
  if (at + 12 > loci.length) return [];
  const [lon, lat, alt] = [loci.i32(at) / 65536, loci.i32(at + 4) / 65536, loci.i32(at + 8) / 65536];
  const signed = (n: number) => (n < 0 ? '' : '+') + n.toFixed(4);
  return [{ key: 'loci', text: `${signed(lat)}${signed(lon)}${signed(alt)}/` }];
}

/** A `meta` box: keys with values (QuickTime) or items by four-character code; with version and flags before (ISO) or without. */
function readMeta(meta: Bytes, movie: Movie): void {
  const from = meta.latin(4, 8) === 'hdlr' ? 0 : 4;
  const parts = new Map([...boxesIn(meta, from)].map((b) => [b.type, b.body]));
  const keys: string[] = [];
  const table = parts.get('keys');
  const most = table ? Math.min(table.u32(4), 1000) : 0;
  for (let at = 8; table && keys.length < most && at + 8 <= table.length; at += Math.max(8, table.u32(at)))
    keys.push(table.text(at + 8, at + table.u32(at)));
  const items = parts.get('ilst');
  if (items) {
    for (const { type, body } of boxesIn(items)) {
      const value = [...boxesIn(body)].find((b) => b.type === 'data')?.body;
      if (!value) continue;
      const number =
        (type.charCodeAt(0) << 24) |
        (type.charCodeAt(1) << 16) |
        (type.charCodeAt(2) << 8) |
        type.charCodeAt(3);
      const text = textOf(value);
      if (text !== null) movie.tags.push({ key: keys[number - 1] ?? type, text });
    }
  }
  for (const type of parts.keys())
    if (!/^(?:hdlr|keys|ilst|free)$/.test(type)) movie.unread.push(`meta ${type}`);
}

/** A metadata value as text by its kind: 1 UTF-8, 2 UTF-16, 21 and 22 integers, 23 and 24 floats. `null` for pictures and what is unknown. */
function textOf(data: Bytes): string | null {
  const kind = data.u32(0) & 0xffffff;
  const body = data.slice(8, data.length);
  if (kind === 1) return body.text(0, body.length);
  if (kind === 2) return new TextDecoder('utf-16be').decode(body.data);
  if (kind === 21 || kind === 22) {
    let n = 0;
    for (let i = 0; i < Math.min(4, body.length); i++) n = n * 256 + body.u8(i);
    return String(kind === 21 && body.u8(0) > 127 ? n - 256 ** Math.min(4, body.length) : n);
  }
  if ((kind === 23 && body.length >= 4) || (kind === 24 && body.length >= 8)) {
    const view = new DataView(body.data.buffer, body.data.byteOffset, body.length);
    return String(kind === 23 ? view.getFloat32(0) : view.getFloat64(0));
  }
  return null;
}
