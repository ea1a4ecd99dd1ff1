import parseRange from 'range-parser';
import type { DiskPath } from '../../core/platform/names';
import { openPlain } from '../../server/platform/files/plainFile';
import type { Source } from '../../server/viewing';

/** The body of an answer. Its source is closed with it, also where the client has gone before it read anything. */
export function bodyOf(request: Request, source: Source): ReadableStream<Uint8Array> {
  let open = true;
  const close = (): void => {
    if (open) void source.close();
    open = false;
  };
  return new ReadableStream<Uint8Array>({
    start(controller) {
      if (request.signal.aborted) return close();
      request.signal.addEventListener('abort', () => {
        if (open) controller.error(new Error('the client has gone'));
        close();
      });
    },
    async pull(controller) {
      const piece = await source.next().catch((e: unknown) => {
        close();
        throw e;
      });
      if (!open) return;
      if (piece) controller.enqueue(piece);
      else {
        controller.close();
        close();
      }
    },
    cancel: close,
  });
}

/** A file for the browser's player; answers byte ranges (RFC 9110). Never as a type a browser would run, whatever the file holds. */
export async function fileResponse(request: Request, path: DiskPath, type: string): Promise<Response> {
  const handle = await openPlain(path);
  const { size } = await handle.stat();
  const headers = { 'content-type': type, 'accept-ranges': 'bytes', 'cache-control': 'private, no-cache' };
  const asked = request.headers.get('range');
  const ranges = asked === null ? -2 : parseRange(size, asked);
  // Several ranges at once, or none that can be read: the whole file, as RFC 9110 (14.2) allows.
  const [range] = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges : [];
  const outside = ranges === -1;
  const [from, to] = [range?.start ?? 0, range?.end ?? size - 1];
  if (outside || request.method === 'HEAD') {
    await handle.close();
    if (outside)
      return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  }
  const said = {
    status: range ? 206 : 200,
    headers: {
      ...headers,
      'content-length': String(to - from + 1),
      ...(range ? { 'content-range': `bytes ${from}-${to}/${size}` } : {}),
    },
  };
  if (request.method === 'HEAD') return new Response(null, said);
  let at = from;
  return new Response(
    bodyOf(request, {
      async next() {
        if (at > to) return null;
        const { bytesRead, buffer } = await handle.read(
          Buffer.allocUnsafe(Math.min(256 << 10, to + 1 - at)),
          0,
          undefined,
          at,
        );
        at += bytesRead;
        return bytesRead > 0 ? new Uint8Array(buffer.subarray(0, bytesRead)) : null;
      },
      close: () => handle.close(),
    }),
    said,
  );
}

/** What is made while it plays. Nothing is begun for who asks for the head only. */
export async function streamResponse(
  request: Request,
  begin: () => Promise<Source>,
  type: string,
): Promise<Response> {
  const headers = { 'content-type': type, 'cache-control': 'no-store' };
  if (request.method === 'HEAD') return new Response(null, { headers });
  return new Response(bodyOf(request, await begin()), { headers });
}
