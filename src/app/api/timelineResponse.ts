import type { TimelineFile, TimelineFormat } from '../../server/handover';

/** As RFC 8187 has it: what RFC 3986 leaves as it is ends a name there. */
const encoded = (name: string): string =>
  encodeURIComponent(name).replace(/['()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);

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
      // RFC 8187: a name of any letters.
      'content-disposition': `attachment; filename="timeline.${format}"; filename*=UTF-8''${encoded(name)}`,
      'cache-control': 'no-store',
    },
  });
}
