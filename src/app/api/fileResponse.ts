import { open } from 'node:fs/promises';

/** A file for the browser's player; answers byte ranges (RFC 9110). */
export async function fileResponse(request: Request, path: string, type: string): Promise<Response> {
  const handle = await open(path);
  const { size } = await handle.stat();
  const headers = { 'content-type': type, 'accept-ranges': 'bytes', 'cache-control': 'private, no-cache' };
  const m = /^bytes=(\d*)-(\d*)$/.exec(request.headers.get('range') ?? '');
  const from = m?.[1] ? Number(m[1]) : m?.[2] ? Math.max(0, size - Number(m[2])) : 0;
  const to = Math.min(size - 1, m?.[1] && m[2] ? Number(m[2]) : size - 1);
  if (m && (from > to || from >= size)) {
    await handle.close();
    return new Response(null, { status: 416, headers: { ...headers, 'content-range': `bytes */${size}` } });
  }
  let at = from;
  const stream = new ReadableStream<Uint8Array>({
    async pull(controller) {
      const { bytesRead, buffer } = await handle.read(Buffer.allocUnsafe(Math.min(256 << 10, to + 1 - at)), 0, undefined, at);
      at += bytesRead;
      if (bytesRead > 0) controller.enqueue(new Uint8Array(buffer.subarray(0, bytesRead)));
      if (bytesRead === 0 || at > to) {
        controller.close();
        await handle.close();
      }
    },
    cancel: () => handle.close(),
  });
  return new Response(stream, {
    status: m ? 206 : 200, headers: { ...headers, 'content-length': String(to - from + 1), ...(m ? { 'content-range': `bytes ${from}-${to}/${size}` } : {}) },
  });
}
