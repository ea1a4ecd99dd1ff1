import { savedAs } from './savedAs';
import type { TimelineFile, TimelineFormat } from '../../server/handover';

/** A timeline to be saved, in the format that the address asks for: OpenTimelineIO, or an edit decision list. */
export async function timelineResponse(
  request: Request,
  write: (format: TimelineFormat) => Promise<TimelineFile>,
): Promise<Response> {
  const format = new URL(request.url).searchParams.get('as') === 'edl' ? 'edl' : 'otio';
  const { name, text } = await write(format);
  return new Response(text, {
    headers: {
      'content-type': format === 'otio' ? 'application/json; charset=utf-8' : 'text/plain; charset=utf-8',
      'content-disposition': savedAs(name, `timeline.${format}`),
      'cache-control': 'no-store',
    },
  });
}
