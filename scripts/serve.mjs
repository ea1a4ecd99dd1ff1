// Starts the built application in this process and says when it is ready.
import { randomBytes } from 'node:crypto';
import { createServer, STATUS_CODES } from 'node:http';
import { createRequire } from 'node:module';
import { networkInterfaces } from 'node:os';
import { giveUp, ROOT } from './setup.mjs';

const require = createRequire(import.meta.url);

/** Connections at once; a browser opens six to a host. */
const MAX_CONNECTIONS = 2000;

/** Bytes of a body; as `src/core/platform/doors.ts` has it. */
const MAX_BODY = 10_000_000;

const METHODS = new Set(['GET', 'HEAD', 'POST', 'PATCH', 'DELETE', 'OPTIONS']);

/** An address of this machine that others can open, where all of them are listened at. */
const reachable = (hostname) =>
  hostname === '0.0.0.0' || hostname === '::'
    ? (Object.values(networkInterfaces())
        .flat()
        .find((i) => i.family === 'IPv4' && !i.internal)?.address ?? '127.0.0.1')
    : hostname.includes(':')
      ? `[${hostname}]`
      : hostname;

/** Letters and digits that are not taken for one another; 100 bits. */
const makeSecret = () =>
  [...randomBytes(20)]
    .map((b) => 'ABCDEFGHJKLMNPQRSTUVWXYZ23456789'[b % 32])
    .join('')
    .replace(/.{5}(?!$)/g, '$&-');

/** Whether a request's target is none that Next can answer: it would do so with a fault of its own, or send a browser to another host. */
function isUnreadable(url) {
  try {
    return (
      !url.startsWith('/') ||
      url.startsWith('/_global-error') ||
      decodeURIComponent(url.replaceAll('+', ' ')).includes('\0')
    );
  } catch {
    return true;
  }
}

/** Whether a header holds what Next's client tells of the page it shows: by Next's own reading, which ends in a fault where pages ask it. */
function isRouterState(header) {
  const {
    parseAndValidateFlightRouterState,
  } = require('next/dist/server/app-render/parse-and-validate-flight-router-state');
  try {
    parseAndValidateFlightRouterState(header);
    return true;
  } catch {
    return false;
  }
}

const OPEN_AS_PRINTED = 'Open Sort Shelf at the address it printed when it started.';

const PROBLEM = { 'content-type': 'application/problem+json', 'x-content-type-options': 'nosniff' };

const problem = (response, status, title, detail, next) => {
  response.writeHead(status, PROBLEM);
  response.end(JSON.stringify({ type: 'about:blank', title, status, detail, next }));
};

/** Answers what Node's own parser refuses, and what therefore never is a request, in the same form. */
function refuseUnparsed(error, socket) {
  if (!socket.writable || error.code === 'ECONNRESET') return socket.destroy();
  const [status, title, detail, next] =
    error.code === 'HPE_HEADER_OVERFLOW'
      ? [431, 'Too long', 'The address or the headers of the request are too long.', 'Ask for less at once.']
      : error.code === 'ERR_HTTP_REQUEST_TIMEOUT'
        ? [408, 'Too slow', 'The request did not come to its end in time.', 'Ask again.']
        : [400, 'Not understood', 'What was sent is no request of HTTP.', OPEN_AS_PRINTED];
  const body = JSON.stringify({ type: 'about:blank', title, status, detail, next });
  const headers = { ...PROBLEM, connection: 'close', 'content-length': Buffer.byteLength(body) };
  const lines = Object.entries(headers).map(([name, value]) => `${name}: ${value}\r\n`);
  // Who never closes its side would hold a connection for ever.
  socket.end(`HTTP/1.1 ${status} ${STATUS_CODES[status]}\r\n${lines.join('')}\r\n${body}`, () =>
    socket.destroy(),
  );
}

/**
 * Resolves with the address once the application answers, the way to `ask` it until it is `ready`, whether its database is lost, and
 * the secret for who comes from elsewhere. Ends the process with one clear line where it cannot start.
 */
export async function serve() {
  process.chdir(ROOT);
  // What it says may go to a volume that is full, or to a window that was closed: it serves all the same.
  for (const stream of [process.stdout, process.stderr]) stream.on('error', () => undefined);
  process.env.NODE_ENV = 'production';
  process.env.NEXT_TELEMETRY_DISABLED = '1';
  const port = Number(process.env.PORT || 4100);
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    giveUp(`PORT is “${process.env.PORT}”, which is no port number (1 to 65535).`);
  const hostname = process.env.SORT_SHELF_LISTEN || '127.0.0.1';
  const isBeyond = !/^(?:localhost|127(?:\.\d{1,3}){3}|::1)$/i.test(hostname);
  if (isBeyond) globalThis.sortShelfSecret = makeSecret();
  let handle = (_, response) => {
    response.statusCode = 503;
    response.end('Sort Shelf is starting.');
  };
  const server = createServer((request, response) => {
    if (isUnreadable(request.url))
      return problem(
        response,
        400,
        'Not understood',
        'The address of the request cannot be read.',
        OPEN_AS_PRINTED,
      );
    // Of other methods Next knows nothing.
    if (!METHODS.has(request.method))
      return problem(response, 405, 'Not allowed', `${request.method} is not answered.`, OPEN_AS_PRINTED);
    // Next would put a name of its own in the place of none.
    if (!request.headers.host)
      return problem(
        response,
        400,
        'Not understood',
        'The request does not say which host it is for.',
        OPEN_AS_PRINTED,
      );
    // At once, before it is sent: Next reads a body before anybody may refuse it.
    if (Number(request.headers['content-length'] ?? 0) > MAX_BODY) {
      response.setHeader('connection', 'close');
      return problem(
        response,
        413,
        'Too large',
        `The request has more than ${MAX_BODY / 1e6} MB.`,
        'Do it in several parts: fewer clips or cards at once.',
      );
    }
    // Without it the page is answered whole.
    if (!isRouterState(request.headers['next-router-state-tree']))
      delete request.headers['next-router-state-tree'];
    request.headers['x-sort-shelf-from'] = request.socket.remoteAddress ?? '';
    return handle(request, response);
  });
  server.maxConnections = MAX_CONNECTIONS;
  server.on('clientError', refuseUnparsed);
  // Nothing here is upgraded; left open, each would hold a connection for ever.
  server.on('upgrade', (_, socket) => socket.destroy());
  await new Promise((resolve, reject) => server.once('error', reject).listen(port, hostname, resolve)).catch(
    (e) => {
      giveUp(
        e.code === 'EADDRINUSE'
          ? `port ${port} is taken by another program. Set PORT to a free one, such as PORT=${port + 1}.`
          : `it cannot listen on ${hostname}:${port}: ${e.message}.`,
      );
    },
  );
  const app = require('next')({ dev: false, dir: ROOT, hostname, port });
  await app.prepare();
  handle = app.getRequestHandler();

  let closing = false;
  const close = async () => {
    if (closing) return;
    closing = true;
    server.close();
    server.closeAllConnections();
    // The runtime is opened inside the application, in this same process.
    const runtime = await globalThis.sortShelf?.catch(() => null);
    await runtime?.close();
    process.exit(0);
  };
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, close);

  // The launcher has a session of its own until it is ready: the application is opened by the first who asks.
  globalThis.sortShelfSessions ??= new Set();
  const token = randomBytes(32).toString('base64url');
  globalThis.sortShelfSessions.add(token);
  const here = `http://${hostname === '0.0.0.0' ? '127.0.0.1' : hostname === '::' ? '[::1]' : reachable(hostname)}:${port}`;
  const ask = (to, options = {}) =>
    fetch(`${here}/api/${to}`, {
      ...options,
      headers: { ...options.headers, cookie: `sort-shelf-${port}=${token}` },
    });
  const health = await ask('platform/health');
  const body = await health.json();
  // A lost database is no reason to end: what is done about it is chosen on the screen.
  const lost = body.title === 'Database lost';
  if (lost) console.log(`${body.detail} ${body.next}`);
  else if (!health.ok) giveUp(`${body.detail} ${body.next ?? ''}`.trim());
  return {
    address: `http://${reachable(hostname)}:${port}`,
    ask,
    lost,
    secret: globalThis.sortShelfSecret ?? null,
    leave: () => globalThis.sortShelfSessions.delete(token),
  };
}

export function ready({ address, secret, leave }) {
  leave();
  if (secret)
    console.log(
      `Whoever opens it is asked for this secret, once in a browser: ${secret}\nIt holds until Sort Shelf is ended. What is sent can be read on the way: use it on networks you trust.`,
    );
  console.log(`Sort Shelf is ready at ${address}`);
}
