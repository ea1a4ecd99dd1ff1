import { randomBytes, timingSafeEqual } from 'node:crypto';
import { type NextRequest, NextResponse } from 'next/server';
import {
  cookieName,
  HEADERS,
  type House,
  isBeyond,
  PLAIN_POLICY,
  pagePolicy,
  portOf,
  type Refusal,
  refusalOf,
  Tries,
} from './core/platform/doors';
import { ENTERED, enterPage } from './ui/platform/enterPage';

/** Kept on the global object: Next loads modules more than once. `secret` is set by the launcher, which shows it. */
const doors = globalThis as {
  sortShelfSecret?: string;
  sortShelfSessions?: Set<string>;
  sortShelfTries?: Tries;
};
const sessions = (doors.sortShelfSessions ??= new Set());
const tries = (doors.sortShelfTries ??= new Tries());

/** Every request comes through here first. Pages are let in by a link; whatever does something only from Sort Shelf's own pages. */
export async function proxy(request: NextRequest): Promise<NextResponse> {
  const { pathname } = request.nextUrl;
  const house: House = { listen: process.env.SORT_SHELF_LISTEN, holds: (token) => sessions.has(token) };
  const refusal = refusalOf(
    { method: request.method, path: pathname, header: (name) => request.headers.get(name) },
    house,
  );
  const isApi = pathname.startsWith('/api');
  // The form of the page below, also from who has a session meanwhile.
  if (
    pathname === '/enter' &&
    request.method === 'POST' &&
    (refusal?.status === 401 || refusal?.status === 415)
  )
    return enter(request);
  if (refusal?.status === 401 && !isApi) return page(enterPage(null), 401);
  if (refusal) return refused(refusal);
  const nonce = randomBytes(16).toString('base64');
  const policy = isApi ? PLAIN_POLICY : pagePolicy(nonce);
  // Next puts the nonce of the policy it is asked with on its own scripts.
  const headers = new Headers(request.headers);
  headers.set('content-security-policy', policy);
  headers.set('x-nonce', nonce);
  return withHeaders(NextResponse.next({ request: { headers } }), policy);
}

function withHeaders(response: NextResponse, policy: string): NextResponse {
  for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value);
  response.headers.set('content-security-policy', policy);
  return response;
}

const refused = ({ status, ...why }: Refusal): NextResponse =>
  withHeaders(
    NextResponse.json(
      { type: 'about:blank', status, ...why },
      { status, headers: { 'content-type': 'application/problem+json' } },
    ),
    PLAIN_POLICY,
  );

const page = (html: string, status: number): NextResponse =>
  withHeaders(
    new NextResponse(html, {
      status,
      headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store' },
    }),
    "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; frame-ancestors 'none'",
  );

/** Takes the secret from who comes from another machine, and gives a session for it. */
async function enter(request: NextRequest): Promise<NextResponse> {
  // Set by the launcher for every request, whatever the client says.
  const from = request.headers.get('x-sort-shelf-from') ?? '';
  if (!isBeyond(process.env.SORT_SHELF_LISTEN) || !doors.sortShelfSecret)
    return page(enterPage('No secret is known. Start Sort Shelf again.'), 403);
  if (!tries.may(from, performance.now()))
    return page(enterPage('Too many wrong secrets. Wait a minute, then try again.'), 429);
  const given = new URLSearchParams((await request.text()).slice(0, 1000)).get('secret') ?? '';
  if (!same(given, doors.sortShelfSecret)) {
    tries.wrong(from, performance.now());
    return page(enterPage('That is not the secret. It was printed where Sort Shelf was started.'), 401);
  }
  const token = randomBytes(32).toString('base64url');
  sessions.add(token);
  // By a page and not by a status: by which name and port the browser came here, only the browser knows.
  const response = page(ENTERED, 200);
  response.cookies.set(cookieName(portOf(request.headers.get('host') ?? '')), token, {
    httpOnly: true,
    sameSite: 'strict',
    path: '/',
  });
  return response;
}

/** Compares in a time that tells nothing; dashes, blanks and case do not count. */
function same(given: string, secret: string): boolean {
  const plain = (s: string) => Buffer.from(s.replace(/[\s-]/g, '').toUpperCase());
  const [a, b] = [plain(given), plain(secret)];
  return a.length === b.length && timingSafeEqual(a, b);
}

export const config = { matcher: '/((?!_next/static/).*)' };
