import { answer } from '../answer';

export const dynamic = 'force-dynamic';

/** Server-sent events: what changed, and how running work stands. A comment every 15 s keeps the line open. */
export const GET = (request: Request): Promise<Response> => answer(async (r) => {
  const encoder = new TextEncoder();
  let stop = (): void => undefined;
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string) => controller.enqueue(encoder.encode(text));
      send('retry: 1000\n\n');
      const unlisten = r.events.listen((event) => send(`data: ${JSON.stringify(event)}\n\n`));
      const beat = setInterval(() => send(': \n\n'), 15_000);
      stop = () => {
        unlisten();
        clearInterval(beat);
      };
      request.signal.addEventListener('abort', () => {
        stop();
        controller.close();
      });
    },
    cancel: () => stop(),
  });
  return new Response(stream, { headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform', 'x-accel-buffering': 'no' } });
});
