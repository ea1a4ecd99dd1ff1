import type { ServerEvent } from '../../../../core/overview';
import { answer } from '../../answer';
import { bodyOf } from '../../fileResponse';

export const dynamic = 'force-dynamic';

/** Messages that may wait for a client; one that does not read any more is let go. */
const MAX_WAITING = 1000;

/** Server-sent events: what changed, and how far running work is. A comment every 15 s keeps the line open. */
export const GET = (request: Request): Promise<Response> =>
  answer(async (r) => {
    const headers = {
      'content-type': 'text/event-stream',
      'cache-control': 'no-cache, no-transform',
      'x-accel-buffering': 'no',
    };
    if (request.method === 'HEAD' || request.signal.aborted) return new Response(null, { headers });
    const encoder = new TextEncoder();
    const waiting = ['retry: 1000\n\n'];
    let ended = false;
    let wake = (): void => undefined;
    const say = (text: string): void => {
      ended ||= waiting.push(text) > MAX_WAITING;
      wake();
    };
    const tell = (event: ServerEvent): void => say(`data: ${JSON.stringify(event)}\n\n`);
    const unlisten = r.events.listen(tell);
    tell({ type: 'opened', quiet: r.events.quiet });
    const beat = setInterval(() => say(': \n\n'), 15_000);
    return new Response(
      bodyOf(request, {
        async next() {
          while (waiting.length === 0 && !ended)
            await new Promise<void>((resolve) => {
              wake = resolve;
            });
          return ended ? null : encoder.encode(waiting.splice(0).join(''));
        },
        close() {
          ended = true;
          unlisten();
          clearInterval(beat);
          wake();
        },
      }),
      { headers },
    );
  });
