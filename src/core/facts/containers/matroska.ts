import type { Bytes } from './bytes';

// What mediabunny does not give of Matroska: exact frame durations, the date, the title, the writing program (RFC 9559).

/** The header of a Matroska file as far as it is read here. */
export interface MatroskaHead {
  /** Nanoseconds of a frame of the first picture track; `null` where it is not stated. */
  frameNanoseconds: number | null;
  /** Nanoseconds since 2001-01-01 UTC; `null` where it is not stated. */
  date: number | null;
  title: string;
  writer: string;
}

interface Element {
  id: number;
  body: Bytes;
}

/** Elements in a row. One of unknown length reaches to the end; one that claims more than there is is cut there. */
function* elementsIn(data: Bytes): Generator<Element> {
  for (let at = 0; at < data.length;) {
    const first = data.u8(at);
    let width = 1;
    while (width <= 4 && (first & (0x80 >> (width - 1))) === 0) width++;
    if (width > 4) return;
    let id = 0;
    for (let i = 0; i < width; i++) id = id * 256 + data.u8(at + i);
    const lead = data.u8(at + width);
    let bytes = 1;
    while (bytes <= 8 && (lead & (0x80 >> (bytes - 1))) === 0) bytes++;
    if (bytes > 8) return;
    let size = lead & (0xff >> bytes);
    let unknown = size === 0xff >> bytes;
    for (let i = 1; i < bytes; i++) {
      size = size * 256 + data.u8(at + width + i);
      unknown &&= data.u8(at + width + i) === 0xff;
    }
    const from = at + width + bytes;
    const to = unknown || from + size > data.length ? data.length : from + size;
    yield { id, body: data.slice(from, to) };
    at = Math.max(to, at + 2);
  }
}

const uint = (b: Bytes): number => [...b.data.subarray(0, 8)].reduce((n, x) => n * 256 + x, 0);

/** Reads the start of a file: its Info and Tracks stand before the pictures in all that muxers write. */
export function readMatroska(start: Bytes): MatroskaHead {
  const head: MatroskaHead = { frameNanoseconds: null, date: null, title: '', writer: '' };
  const segment = [...elementsIn(start)].find((e) => e.id === 0x18538067);
  if (!segment) return head;
  for (const { id, body } of elementsIn(segment.body)) {
    if (id === 0x1549a966) {
      for (const e of elementsIn(body)) {
        if (e.id === 0x4461 && e.body.length === 8) head.date = e.body.i32(0) * 2 ** 32 + e.body.u32(4);
        else if (e.id === 0x7ba9) head.title = e.body.text(0, e.body.length);
        else if (e.id === 0x4d80) head.writer = e.body.text(0, e.body.length);
      }
    } else if (id === 0x1654ae6b) {
      for (const track of elementsIn(body)) {
        const parts = new Map([...elementsIn(track.body)].map((e) => [e.id, e.body]));
        const duration = parts.get(0x23e383);
        if (parts.get(0x83)?.u8(0) === 1 && duration) head.frameNanoseconds ??= uint(duration) || null;
      }
    } else if (id === 0x1f43b675) return head;
  }
  return head;
}
