// Who is let in. A page from elsewhere can make the person's browser send requests, or point a name of its own at this machine; another
// machine can knock where Sort Shelf listens beyond this one. Each is told by what a browser or a socket says and a page cannot change.

/** A request, as far as it decides whether it is let in. Header names in lower case. */
export interface Knock {
  method: string;
  path: string;
  header(name: string): string | null;
}

/** Where Sort Shelf listens: `listen` is SORT_SHELF_LISTEN; `holds` tells whether a session's token is known. */
export interface House {
  listen: string | undefined;
  holds(token: string): boolean;
}

/** Why a request is not let in. */
export interface Refusal {
  status: 401 | 403 | 413 | 415;
  title: string;
  detail: string;
  next: string;
}

/** Bytes of a request's body beyond which it is refused: thousands of clips are named in a tenth of it. Next passes on no more. */
export const MAX_BODY = 10_000_000;

const LOOPBACK_HOST = /^(?:localhost|127(?:\.\d{1,3}){3}|\[::1\])(?::\d{1,5})?$/i;
const LOOPBACK_ADDRESS = /^(?:localhost|127(?:\.\d{1,3}){3}|::1)$/i;

/** Whether an address to listen at is reached from other machines. */
export const isBeyond = (listen: string | undefined): boolean =>
  listen !== undefined && listen !== '' && !LOOPBACK_ADDRESS.test(listen);

/** The name of the session's cookie; cookies are shared by all ports of a host. */
export const cookieName = (port: string): string => `sort-shelf-${port}`;

/** The value of a cookie in a Cookie header (RFC 6265); `null` where it is not there. */
export function cookieIn(header: string | null, name: string): string | null {
  for (const pair of (header ?? '').split(';')) {
    const at = pair.indexOf('=');
    if (at > 0 && pair.slice(0, at).trim() === name) return pair.slice(at + 1).trim();
  }
  return null;
}

const isApi = (path: string): boolean => path === '/api' || path.startsWith('/api/');

/** Why a request is not let in; `null` where it is. */
export function refusalOf(knock: Knock, house: House): Refusal | null {
  const host = knock.header('host') ?? '';
  const beyond = isBeyond(house.listen);
  const elsewhere = (who: string): Refusal => ({
    status: 403,
    title: 'Refused',
    detail: `Requests from “${who.slice(0, 100)}” are not answered.`,
    next: 'Open Sort Shelf at the address it printed when it started.',
  });
  // Beyond this machine any name may lead here; a name of somebody's own has no session.
  if (!beyond && !LOOPBACK_HOST.test(host)) return elsewhere(host);
  const origin = knock.header('origin');
  if (origin !== null && origin !== `http://${host}` && !(beyond && origin === `https://${host}`))
    return elsewhere(origin);
  const site = knock.header('sec-fetch-site');
  if (site === 'cross-site' || site === 'same-site') {
    // A link on another page may lead to a page of ours, which does nothing by being opened; it may not be framed.
    const isLink =
      knock.method === 'GET' &&
      knock.header('sec-fetch-mode') === 'navigate' &&
      knock.header('sec-fetch-dest') === 'document' &&
      !isApi(knock.path);
    if (!isLink) return elsewhere('another site');
  }
  if (beyond && !house.holds(cookieIn(knock.header('cookie'), cookieName(portOf(host))) ?? '')) {
    return {
      status: 401,
      title: 'Secret needed',
      detail: 'Sort Shelf asks who comes from another machine for its secret.',
      next: 'Open it in a browser and give the secret that it printed when it started.',
    };
  }
  if (knock.method === 'GET' || knock.method === 'HEAD') return null;
  const hasBody =
    Number(knock.header('content-length') ?? 0) > 0 || knock.header('transfer-encoding') !== null;
  if (hasBody && !/^application\/json\s{0,4}(?:;|$)/i.test(knock.header('content-type') ?? '')) {
    return {
      status: 415,
      title: 'Not understood',
      detail: 'The body of a request has to be JSON, and say so.',
      next: 'Send it with the content type application/json.',
    };
  }
  return null;
}

/** The port in a Host header; that of HTTP where it names none. */
export const portOf = (host: string): string => /:(\d{1,5})$/.exec(host)?.[1] ?? '80';

export const tooLarge = (bytes: number): Refusal => ({
  status: 413,
  title: 'Too large',
  detail: `The request has ${(bytes / 1e6).toFixed(1)} MB; at most ${MAX_BODY / 1e6} MB are taken.`,
  next: 'Do it in several parts: fewer clips or cards at once.',
});

/** What every answer says to the browser: nothing of it is run, framed or taken for another type than it has. */
export const HEADERS: Readonly<Record<string, string>> = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  'permissions-policy': 'camera=(), microphone=(), geolocation=(), usb=()',
};

/** The content security policy of a page whose own scripts bear `nonce`. Styles are written by the components as they are shown. */
export const pagePolicy = (nonce: string): string =>
  [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}'`,
    "style-src 'self' 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "media-src 'self' blob:",
    "font-src 'self' data:",
    "connect-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
    "object-src 'none'",
  ].join('; ');

/** That of everything else: nothing is run or fetched; receipts and reports have styles and pictures of their own in them. */
export const PLAIN_POLICY =
  "default-src 'none'; style-src 'unsafe-inline'; img-src data:; frame-ancestors 'none'; sandbox";

/** Milliseconds, and wrong secrets that one address may give within them. */
export const TRIES = { within: 60_000, most: 10 };

/** Counts wrong secrets by address; `at` is a clock that only goes forward, milliseconds. */
export class Tries {
  readonly #wrong = new Map<string, number[]>();

  /** Whether an address may try now. */
  may(from: string, at: number): boolean {
    const recent = (this.#wrong.get(from) ?? []).filter((t) => at - t < TRIES.within);
    if (recent.length === 0) this.#wrong.delete(from);
    else this.#wrong.set(from, recent);
    return recent.length < TRIES.most;
  }

  wrong(from: string, at: number): void {
    // Very many addresses are one attack: the oldest are forgotten.
    if (this.#wrong.size > 10_000) this.#wrong.delete(this.#wrong.keys().next().value!);
    this.#wrong.set(from, [...(this.#wrong.get(from) ?? []), at]);
  }
}
