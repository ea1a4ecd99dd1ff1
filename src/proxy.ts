import { type NextRequest, NextResponse } from 'next/server';

const LOOPBACK = /^(?:localhost|127(?:\.\d{1,3}){3}|\[::1\])(?::\d+)?$/i;

/**
 * Only the person at this machine may drive the server. A page from elsewhere can make their browser send requests, or
 * point a name of its own at the loopback address: the first is told by Origin, the second by Host. A server told to
 * listen elsewhere (SORT_SHELF_LISTEN) answers to that address too.
 */
export function proxy(request: NextRequest): NextResponse {
  const host = request.headers.get('host') ?? '';
  const origin = request.headers.get('origin');
  const listen = process.env.SORT_SHELF_LISTEN;
  const hostOk = LOOPBACK.test(host) || (listen !== undefined && host.replace(/:\d+$/, '') === listen);
  const originOk = origin === null || request.method === 'GET' || request.method === 'HEAD' || origin === `http://${host}`;
  if (hostOk && originOk) return NextResponse.next();
  return NextResponse.json(
    { type: 'about:blank', title: 'Refused', status: 403, detail: `Requests from “${hostOk ? origin : host}” are not answered.`, next: 'Open Sort Shelf at the address it printed when it started.' },
    { status: 403, headers: { 'content-type': 'application/problem+json' } },
  );
}

export const config = { matcher: '/api/:path*' };
