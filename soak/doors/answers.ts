import { mkdirSync, readdirSync, readFileSync, renameSync, symlinkSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import type { TestServer } from '../../e2e/server';
import { ask, each, json, routes, Tally, Client, copyCard, until } from './house';

// What comes out: never run, framed or taken for another type; names of a card are words everywhere; nothing outside a root.

const ACTIVE = /html|javascript|svg|xml|wasm|x-shockwave|pdf/i;

/** Every page and every answer says what a browser may do with it, and none is of a type it would run. */
export async function policies(server: TestServer, clip: string): Promise<Tally> {
  const tally = new Tally('answers');
  const { port } = server;
  const check = async (target: string, kind: 'page' | 'api' | 'receipt'): Promise<void> => {
    const { headers, status } = await ask(port, { path: target });
    const policy = String(headers['content-security-policy'] ?? '');
    const say = (what: string): string => `${target} (${status}): ${what}`;
    tally.tried(
      headers['x-content-type-options'] === 'nosniff' ? null : say('may be taken for another type'),
    );
    tally.tried(
      /frame-ancestors 'none'/.test(policy) || headers['x-frame-options'] === 'DENY'
        ? null
        : say('may be framed'),
    );
    tally.tried(/default-src 'none'/.test(policy) ? null : say(`its policy is “${policy}”`));
    tally.tried(!/script-src[^;]*'unsafe/.test(policy) ? null : say('text may be run as code'));
    tally.tried(
      kind !== 'api' || !ACTIVE.test(String(headers['content-type'] ?? ''))
        ? null
        : say(`is of type ${headers['content-type']}`),
    );
  };
  for (const page of [
    '/',
    '/jobs',
    '/jobs/SLW',
    '/jobs/NOPE',
    '/jobs/SLW/intake',
    '/jobs/SLW/facts',
    '/jobs/SLW/naming',
    '/jobs/SLW/proxies',
    '/jobs/SLW/logbook',
    '/jobs/SLW/card/A001',
    '/jobs/SLW/card/A001/wipe',
    `/jobs/SLW/clip/${clip}`,
    '/nowhere',
  ])
    await check(page, 'page');
  for (const { path: route, methods } of routes()) {
    if (!methods.includes('GET') || route === '/api/platform/events') continue;
    for (const id of [clip, 'A001'])
      await check(
        `${route.replace('[id]', id)}?root=shelf&path=Offloaded&which=original&frame=0`,
        route.endsWith('/receipt') ? 'receipt' : 'api',
      );
    if (route.endsWith('/receipt')) await check(`${route.replace('[id]', 'A001')}?as=json`, 'api');
  }
  return tally;
}

/** Names as somebody gives them who wants more of them than to be read. */
export const NAMES = [
  '<img src=x onerror=alert(1)>.MP4',
  '"><script>alert(1).MP4',
  "'onmouseover='x.MP4",
  '=1+1.MP4',
  '@SUM(1).MP4',
  '\u202egpj.MP4',
  '\n=1+1.MP4',
  '\u2028x.MP4',
  '&lt;b&gt;.MP4',
  '${7*7}{{7*7}}.MP4',
  '-rf.MP4',
  '%d%s.MP4',
  '\u0007bell.MP4',
  ']]>.MP4',
  '<style><b>.MP4',
];

/** A card of such names: looked at, copied, read, answered for and handed over; its names stay words in each. */
export async function names(server: TestServer, film: string): Promise<Tally> {
  const tally = new Tally('names');
  const { port } = server;
  const card = path.join(server.home, 'stand-ins', 'drawer', 'odd');
  mkdirSync(path.join(card, 'CLIP'), { recursive: true });
  const bytes = readFileSync(film);
  for (const [i, name] of NAMES.entries())
    writeFileSync(
      path.join(card, 'CLIP', name),
      Buffer.concat([bytes, Buffer.from([0, 0, 0, 9, 102, 114, 101, 101, i])]),
    );
  const client = new Client(server);
  const { roots } = await client.get<{ roots: { id: string; name: string; kind: string }[] }>(
    '/api/jobs/SLW',
  );
  const reader = roots.find((r) => r.name === 'Reader 2')!.id;
  await client.post('/api/offload/stand-ins', { action: 'plug', slot: 'Reader 2', card: 'odd' });
  const looked = await client.post<{ cards: { folder: string; clips: unknown[] }[] }>(
    '/api/jobs/SLW/intake/look',
    {
      root: reader,
      path: '',
    },
  );
  tally.tried(
    looked.cards[0]?.clips.length === NAMES.length
      ? null
      : `of ${NAMES.length} clips ${looked.cards[0]?.clips.length} are seen`,
  );
  await copyCard(client, {
    root: reader,
    path: '',
    folder: looked.cards[0]!.folder,
    camera: 'X',
    cardId: 'X001',
    safe: roots.filter((r) => r.kind === 'safe').map((r) => r.id),
  });
  await until(
    () => client.get<{ card: string; state: string }[]>('/api/jobs/SLW/offload'),
    (all) => all.some((o) => o.card === 'X001' && /^(?:done|partly)$/.test(o.state)),
    120,
  );
  const receipt = (
    await ask(port, { path: '/api/jobs/SLW/custody/cards/X001/receipt', most: 1e8 })
  ).body.toString();
  tally.tried(/onerror=alert\(1\)&gt;/.test(receipt) ? null : 'the receipt does not name the clip');
  tally.tried(!/<img|<script|<b>/i.test(receipt) ? null : 'a name is markup in the receipt');
  const wipe = await client.get<{ verdict: string }>('/api/jobs/SLW/custody/cards/X001/wipe');
  tally.tried(wipe.verdict === 'yes' ? null : `the card of odd names may not be wiped: ${wipe.verdict}`);
  const { task } = await client.post<{ task: string }>('/api/jobs/SLW/facts/extract', {
    from: { kind: 'card', card: 'X001' },
    fields: ['fileName', 'cameraFile'],
    formats: ['csv', 'json'],
  });
  const made = await until(
    () => client.get<{ state: string; problem: { detail: string } | null }>(`/api/platform/tasks/${task}`),
    (t) => t.state !== 'running',
    60,
  );
  tally.tried(made.state === 'done' ? null : (made.problem?.detail ?? made.state));
  await client.post('/api/jobs/SLW/handover/packages', {
    set: { kind: 'card', card: 'X001' },
    form: {
      ...{ name: 'Odd', media: ['edit', 'original', 'sound', 'look'], folders: 'one', names: 'original' },
      lists: ['otio', 'edl', 'facts', 'marks'],
      ...{ handles: 8, usedRecipe: 'ProRes LT in MOV, same size' },
      viewRecipe: 'For viewing, with name and timecode',
    },
    ...{ to: '=1+1', root: 'handover', folder: 'odd names' },
  });
  const [sent] = await until(
    () => client.get<{ state: string; fault: string | null }[]>('/api/jobs/SLW/handover/packages'),
    ([p]) => p!.state === 'done' || p!.fault !== null,
    60,
  );
  tally.tried(sent!.state === 'done' ? null : `the package of odd names: ${sent!.fault}`);
  for (const f of readdirSync(path.join(server.home, 'handover'), {
    recursive: true,
    encoding: 'utf8',
  }).filter((n) => n.endsWith('.csv'))) {
    const text = readFileSync(path.join(server.home, 'handover', f), 'utf8');
    const bare = text.replace(/"(?:[^"]|"")*"/g, '""');
    tally.tried(
      bare.split('\r\n').every((row) => !/^[=+@\t-]|,[=+@\t]/.test(row) && !/[\r\n]/.test(row))
        ? null
        : `${f} holds a formula`,
    );
  }
  await client.post('/api/offload/stand-ins', { action: 'pull', slot: 'Reader 2' });
  return tally;
}

/** Paths that lead out, and links that come and go while files are asked for: nothing outside a root is ever answered with. */
export async function paths(server: TestServer, film: string, seconds: number): Promise<Tally> {
  const tally = new Tally('paths');
  const { port } = server;
  const secret = Buffer.from('this is nobody’s footage'.repeat(100));
  const outside = path.join(server.home, 'outside');
  mkdirSync(outside);
  writeFileSync(path.join(outside, 'a.MP4'), secret);
  writeFileSync(path.join(outside, 'a.WAV'), secret);
  const leads = [
    '..',
    '../outside',
    '../outside/a.MP4',
    'Offloaded/../../outside/a.MP4',
    '/etc',
    outside,
    `${outside}/a.MP4`,
    './../outside',
    'Offloaded//..//..//outside',
    '..\\outside',
    '%2e%2e/outside',
    '....//outside',
    '.../outside',
    'Offloaded/./../../outside',
    '~',
    'file:///etc/passwd',
  ];
  const asks: ((p: string) => Parameters<typeof ask>[1])[] = [
    (p) => ({ path: `/api/jobs/SLW/intake/folders?root=shelf&path=${encodeURIComponent(p)}` }),
    (p) => ({ path: `/api/jobs/SLW/intake/facts?root=shelf&path=${encodeURIComponent(p)}` }),
    (p) => ({ path: `/api/jobs/SLW/intake/strip?root=shelf&path=${encodeURIComponent(p)}` }),
    (p) => ({ path: `/api/jobs/SLW/intake/play?root=shelf&path=${encodeURIComponent(p)}` }),
    (p) => ({ method: 'POST', path: '/api/jobs/SLW/intake/look', ...json({ root: 'shelf', path: p }) }),
    (p) => ({
      method: 'POST',
      path: '/api/jobs/SLW/intake/look/names',
      ...json({ root: 'shelf', path: p }),
    }),
    (p) => ({
      method: 'POST',
      path: '/api/jobs/SLW/intake',
      ...json({
        root: 'shelf',
        path: p,
        cards: [{ folder: '', camera: 'A', cardId: 'Z1', day: 1, date: null }],
      }),
    }),
  ];
  const isSecret = (body: Buffer): boolean =>
    body.includes(secret.subarray(0, 24)) || body.toString().includes('root:x:');
  for (const lead of leads) {
    for (const a of asks) {
      const { status, body } = await ask(port, a(lead));
      tally.tried(
        status >= 400 && status < 500 && !isSecret(body)
          ? null
          : `${JSON.stringify(a(lead)).slice(0, 200)}: ${status}`,
      );
    }
  }
  for (const [kind, at] of ['source', 'safe', 'shelf'].flatMap((k) =>
    [
      '/',
      '/etc',
      '/proc',
      '/usr',
      '/dev',
      server.home,
      path.join(server.home, 'database'),
      process.cwd(),
      'relative',
      outside.replace('outside', 'nowhere'),
    ].map((p) => [k, p]),
  )) {
    const { status } = await ask(port, {
      method: 'POST',
      path: '/api/places/roots',
      ...json({ kind, path: at }),
    });
    tally.tried(status === 422 || status === 404 ? null : `${at} as a ${kind} root: ${status}`);
  }
  // A folder on the way, and the file itself, become links to outside, and are themselves again, a thousand times a second.
  const card = path.join(server.shelf, 'Swapped');
  mkdirSync(path.join(card, 'in'), { recursive: true });
  const whole = readFileSync(film);
  writeFileSync(path.join(card, 'in', 'a.MP4'), whole);
  writeFileSync(path.join(card, 'in', 'a.WAV'), whole);
  symlinkSync(outside, path.join(server.home, 'link'));
  let swapping = true;
  const swaps = (async () => {
    for (let n = 0; swapping; n++) {
      renameSync(path.join(card, 'in'), path.join(card, 'kept'));
      renameSync(path.join(server.home, 'link'), path.join(card, 'in'));
      if (n % 3 === 0) await new Promise((r) => setImmediate(r));
      renameSync(path.join(card, 'in'), path.join(server.home, 'link'));
      renameSync(path.join(card, 'kept'), path.join(card, 'in'));
      await new Promise((r) => setTimeout(r, n % 2));
    }
  })();
  const end = performance.now() + seconds * 1000;
  let right = 0;
  await each([0, 1, 2, 3], 4, async () => {
    while (performance.now() < end) {
      for (const target of [
        'play?root=shelf&path=Swapped/in/a.MP4',
        'play?root=shelf&path=Swapped/in/a.WAV',
        'facts?root=shelf&path=Swapped/in/a.MP4',
      ]) {
        const { status, body } = await ask(port, { path: `/api/jobs/SLW/intake/${target}`, most: 1e7 });
        if (status === 200) right++;
        tally.tried(
          isSecret(body)
            ? `${target} was answered with a file outside`
            : status >= 500
              ? `${target}: ${status} ${body.toString().slice(0, 200)}`
              : null,
        );
      }
    }
  });
  swapping = false;
  await swaps;
  tally.tried(right > 0 ? null : 'no file was ever answered with: the links were all that was met');
  return tally;
}
