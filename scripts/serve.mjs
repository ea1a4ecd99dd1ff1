// Starts the built application in this process and says when it is ready.
import { createServer } from 'node:http';
import { createRequire } from 'node:module';
import { giveUp, ROOT } from './setup.mjs';

const require = createRequire(import.meta.url);

/** Resolves with the address once the application answers, and whether its database is lost. Ends the process with one clear line where it cannot start. */
export async function serve() {
  process.chdir(ROOT);
  process.env.NODE_ENV = 'production';
  process.env.NEXT_TELEMETRY_DISABLED = '1';
  const port = Number(process.env.PORT || 4100);
  if (!Number.isInteger(port) || port < 1 || port > 65535) giveUp(`PORT is “${process.env.PORT}”, which is no port number (1 to 65535).`);
  const hostname = process.env.SORT_SHELF_LISTEN || '127.0.0.1';
  let handle = (_, response) => {
    response.statusCode = 503;
    response.end('Sort Shelf is starting.');
  };
  const server = createServer((request, response) => handle(request, response));
  await new Promise((resolve, reject) => server.once('error', reject).listen(port, hostname, resolve)).catch((e) => {
    giveUp(e.code === 'EADDRINUSE' ? `port ${port} is taken by another program. Set PORT to a free one, such as PORT=${port + 1}.` : `it cannot listen on ${hostname}:${port}: ${e.message}.`);
  });
  const app = require('next')({ dev: false, dir: ROOT, hostname, port });
  await app.prepare();
  handle = app.getRequestHandler();
  const address = `http://${hostname}:${port}`;
  const health = await fetch(`${address}/api/health`);
  const body = await health.json();
  // A lost database is no reason to end: what is done about it is chosen on the screen.
  const lost = body.title === 'Database lost';
  if (lost) console.log(`${body.detail} ${body.next}`);
  else if (!health.ok) giveUp(`${body.detail} ${body.next ?? ''}`.trim());

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
  process.on('SIGINT', close);
  process.on('SIGTERM', close);
  return { address, lost };
}

export const ready = ({ address }) => console.log(`Sort Shelf is ready at ${address.replace(/\/$/, '')}`);
