import { connect, type Socket } from 'node:net';
import type { TestServer } from '../../e2e/server';
import { randomFrom } from '../../src/core/platform/random';
import { MAX_BODY } from '../../src/core/platform/doors';
import { LIGHT } from '../../src/core/proxies';
import { type Ask, ask, children, each, footageIn, json, routes, Tally, vitals, until } from './house';

// Other origins and hosts, fuzzed requests, streams that are left, clients that are slow, very many at once.

const HOSTS = [
  'evil.example',
  'localhost.',
  'LOCALHOST.evil.example',
  '127.0.0.1.evil.example',
  '0.0.0.0',
  '192.168.0.1',
  '[::ffff:7f00:1]',
  '2130706433',
  '0x7f.1',
  'localhost@evil.example',
  'localhost:',
  'localhost:99999999',
  'xn--lcalhost-56a',
  '[::1',
  '127.0.0.1%00',
  'localhost\tx',
];
const ORIGINS = [
  'http://evil.example',
  'null',
  'https://127.0.0.1',
  'http://127.0.0.1',
  'http://127.0.0.1:1',
  'http://localhost',
  'http://[::1]',
  'HTTP://127.0.0.1',
  'http://127.0.0.1.evil.example',
  'file://',
  'chrome-extension://x',
  'http://127.0.0.1@evil.example',
  '',
];

/** The first line and the headers of what is answered to bytes as they are; nothing where it is hung up on. */
const rawHead = (port: number, bytes: string): Promise<string> =>
  new Promise((resolve, reject) => {
    const socket = connect(port, '127.0.0.1', () => socket.write(bytes));
    socket
      .once('error', reject)
      .once('close', () => resolve(''))
      .once('data', (d: Buffer) => {
        resolve(d.toString('latin1').split('\r\n\r\n', 1)[0]!);
        socket.destroy();
      });
  });

/** Hosts and origins of others, in every variant, for pages, for reading and for doing. */
export async function origins(server: TestServer): Promise<Tally> {
  const tally = new Tally('origins');
  const { port } = server;
  const targets: Ask[] = [
    { path: '/' },
    { path: '/jobs/SLW/intake' },
    { path: '/api/jobs/SLW' },
    { path: '/api/platform/events' },
    { path: '/api/jobs/SLW/intake/play?root=shelf&path=x.mp4' },
    { method: 'HEAD', path: '/api/jobs/SLW/overview/wall' },
    { method: 'OPTIONS', path: '/api/jobs/SLW' },
    { method: 'POST', path: '/api/jobs/SLW/intake/scan', ...json({ card: null }) },
    { method: 'PATCH', path: '/api/jobs/SLW', ...json({}) },
    { method: 'DELETE', path: '/api/jobs/SLW/intake/cards/A001' },
    { method: 'DELETE', path: '/api/jobs/SLW' },
  ];
  const fail = async (
    target: Ask,
    headers: Record<string, string>,
    allowed: readonly number[],
  ): Promise<void> => {
    const said = JSON.stringify(headers);
    const { status } = await ask(port, { ...target, headers: { ...target.headers, ...headers } }).catch(
      () => ({ status: 400 }),
    );
    tally.tried(
      allowed.includes(status)
        ? null
        : `${target.method ?? 'GET'} ${target.path} with ${said} was answered ${status}`,
    );
  };
  for (const target of targets) {
    // Node's own parser refuses some hosts before they are seen: 400.
    for (const host of [...HOSTS, ...HOSTS.map((h) => `${h}:${port}`)].filter((h) => !/[\t]/.test(h)))
      await fail(target, { host }, [403, 400]);
    for (const origin of [
      ...ORIGINS,
      `https://127.0.0.1:${port}`,
      `http://localhost:${port}`,
      `http://127.0.0.1:${port}.evil.example`,
    ])
      await fail(target, { origin }, [403]);
    for (const site of ['cross-site', 'same-site']) {
      for (const [mode, dest] of [
        ['no-cors', 'image'],
        ['no-cors', 'video'],
        ['cors', 'empty'],
        ['navigate', 'iframe'],
        ['navigate', 'embed'],
        ['websocket', 'websocket'],
        ['no-cors', 'script'],
      ]) {
        await fail(
          target,
          { 'sec-fetch-site': site, 'sec-fetch-mode': mode!, 'sec-fetch-dest': dest! },
          [403],
        );
      }
      if (target.path.startsWith('/api'))
        await fail(
          target,
          { 'sec-fetch-site': site, 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' },
          [403],
        );
    }
  }
  // None at all, which Node's own client cannot send.
  const bare = (await rawHead(port, 'GET /api/jobs/SLW HTTP/1.0\r\n\r\n')).split('\r\n', 1)[0]!;
  tally.tried(bare.includes(' 400 ') ? null : `a request for no host was answered ${bare}`);
  // What Node's own parser refuses: it never comes to the application.
  for (const [words, unparsed] of [
    ['an address of 20 KB', `GET /api/jobs/SLW?${'a'.repeat(20_000)} HTTP/1.1\r\nHost: 127.0.0.1:${port}`],
    ['headers of 20 KB', `GET / HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nX: ${'a'.repeat(20_000)}`],
    ['no request at all', '<xml/>'],
    ['a length that is none', `POST / HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Length: x`],
  ] as const) {
    const said = await rawHead(port, `${unparsed}\r\n\r\n`);
    const isProblem = /^HTTP\/1\.1 4\d\d /.test(said) && said.includes('application/problem+json');
    tally.tried(isProblem ? null : `${words} was answered ${said.split('\r\n').slice(0, 3).join(' ')}`);
  }
  // Headers that are Next's own, by which it talks to itself.
  const internal: Record<string, string>[] = [
    { 'x-middleware-subrequest': 'src/proxy:src/proxy:src/proxy:src/proxy:src/proxy' },
    { 'x-middleware-subrequest': 'proxy' },
    { 'x-middleware-next': '1' },
    { 'x-middleware-rewrite': '/api/jobs/SLW' },
    { 'x-forwarded-host': `127.0.0.1:${port}` },
  ];
  for (const own of internal) {
    for (const target of targets) await fail(target, { ...own, host: 'evil.example' }, [403]);
  }
  for (const type of [
    'text/plain',
    'application/x-www-form-urlencoded',
    'multipart/form-data; boundary=x',
    'text/json',
    '',
  ])
    await fail(
      { method: 'POST', path: '/api/jobs/SLW/intake/scan', body: '{"card":null}' },
      { 'content-type': type },
      [415],
    );
  return tally;
}

const TEXTS = [
  '',
  'x',
  '..',
  '../..',
  '/etc/passwd',
  '\0',
  'a\0b',
  '\ud800',
  '\uf7e9',
  '%00',
  '%2e%2e%2f',
  'a'.repeat(300),
  'a/'.repeat(2000),
  'a'.repeat(5000),
  '-rf',
  '{card}',
  '{constructor}',
  '__proto__',
  'constructor',
  "'; drop table clips; --",
  '<img src=x onerror=alert(1)>',
  '\u202egnp',
  '\n=1+1',
  'C:\\Windows',
  'con',
  '💾'.repeat(50),
  'NaN',
  '1e999',
  '9'.repeat(40),
  'shelf',
  'A001',
  '00000000-0000-0000-0000-000000000000',
  'toString',
  './.',
  '.',
  'file:///etc/passwd',
  'http://127.0.0.1/',
];
const NUMBERS = [0, -1, 1.5, 1e9, 2 ** 31, 2 ** 53, 1e308, -1e308, 2 ** 63];

/** A package that goes. */
const PACKAGE = {
  set: { kind: 'job' },
  form: {
    name: 'Own',
    media: ['edit', 'sound'],
    folders: 'day',
    names: 'original',
    lists: ['otio', 'marks'],
    handles: 8,
    usedRecipe: 'ProRes LT in MOV, same size',
    viewRecipe: 'For viewing, with name and timecode',
  },
  to: 'x',
  root: 'handover',
  folder: 'x',
};

const RECIPE = { ...LIGHT, name: 'z' };
/** Bodies that are right, by route: what is made of them gets past the first check. */
const RIGHT: Record<string, unknown> = {
  '/api/jobs': { name: 'x', code: 'SLW', zoneMinutes: 0, cameras: [] },
  '/api/jobs/SLW': {
    action: 'takeUp',
    intake: { types: { video: ['mp4'], still: [], raw: [], sound: [] } },
    trust: {},
    rate: { num: 25, den: 1 },
  },
  '/api/jobs/SLW/intake': {
    root: 'shelf',
    path: 'Offloaded',
    cards: [{ folder: '', camera: 'A', cardId: 'A001', day: 1, date: '2026-05-05' }],
    singles: [],
  },
  '/api/jobs/SLW/intake/look/names': { root: 'shelf', path: 'Offloaded', singles: ['x'] },
  '/api/jobs/SLW/intake/look': { root: 'shelf', path: 'Offloaded', singles: ['x'] },
  '/api/jobs/SLW/offload': {
    root: 'shelf',
    path: 'Offloaded',
    folder: '',
    camera: 'A',
    cardId: 'A001',
    day: 1,
    date: null,
    clips: null,
    wholeCard: true,
    safe: ['x'],
    shelf: true,
    pattern: '{job}/{card}',
    verification: 'contents',
    hash: 'xxh128',
    singles: [],
  },
  '/api/jobs/SLW/naming/coming': {
    root: 'shelf',
    path: 'Offloaded',
    folder: '',
    camera: 'A',
    cardId: 'A001',
    day: 1,
    date: null,
    clips: null,
    singles: [],
    fields: ['scene'],
  },
  '/api/jobs/SLW/naming/skeleton': { skeleton: ['{job}/Sound'], root: null, layOut: false },
  '/api/jobs/SLW/naming/standing': { folders: [{ root: 'shelf', folder: 'SLW' }] },
  '/api/jobs/SLW/choose': { do: 'addKeyword', clips: ['x'], name: 'wheel' },
  '/api/jobs/SLW/handover/rehearsal': { verdict: 'connects', words: 't0', limit: 5 },
  '/api/jobs/SLW/handover/rehearsal/mend': { mend: 'rewrap', clips: null },
  '/api/jobs/SLW/handover/edits': {
    file: 'x.edl',
    text: '001  A001 V C 10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00',
    rate: { num: 25, den: 1 },
  },
  '/api/jobs/SLW/handover/packages': PACKAGE,
  '/api/jobs/SLW/handover/packages/plan': PACKAGE,
  '/api/jobs/SLW/handover/packages/make': PACKAGE,
  '/api/handover/forms': PACKAGE.form,
  '/api/handover/forms/import': { format: 'sort-shelf-forms', version: 1, forms: [PACKAGE.form] },
  '/api/jobs/SLW/handover/lists': { text: 'Clip,Keywords\nA001_C001,wheel\n' },
  '/api/jobs/SLW/handover/lists/read': { text: 'Clip;Note\nA001_C001;x\n', columns: ['name', null] },
  '/api/jobs/SLW/choose/find': { query: 'any(rate over 25, wheel)', by: 'keyword', limit: 5 },
  '/api/jobs/SLW/choose/ids': { query: 'no proxy', bin: 'none' },
  '/api/jobs/SLW/choose/ranges': { query: 'with select', kinds: ['select'], limit: 5 },
  '/api/jobs/SLW/choose/rolling': { clip: 'x' },
  '/api/jobs/SLW/choose/undo': { id: 'x' },
  '/api/jobs/SLW/facts/undo': { id: 'x' },
  '/api/jobs/SLW/choose/searches': {
    format: 'sort-shelf-searches',
    version: 1,
    searches: [{ name: 'x', query: 'with select' }],
  },
  '/api/jobs/SLW/facts/say': { said: [{ clip: 'x', field: 'scene', value: '12' }] },
  '/api/jobs/SLW/proxies/adopt': { root: 'proxies', pairs: [{ path: 'x.mp4', clip: 'x' }] },
  '/api/jobs/SLW/proxies/adopt/look': { root: 'proxies', path: '' },
  '/api/jobs/SLW/proxies/lost': { files: [{ file: 'x', root: 'proxies', path: 'x.mp4' }] },
  '/api/jobs/SLW/proxies/lost/look': {},
  '/api/jobs/SLW/proxies/try': { clip: 'x', recipe: RECIPE },
  '/api/jobs/SLW/proxies/beside': { action: 'standsNot', file: 'x' },
  '/api/proxies/recipes': RECIPE,
  '/api/proxies/recipes/import': { format: 'sort-shelf-recipes', version: 1, recipes: [RECIPE] },
  '/api/naming/conventions': {
    convention: {
      name: 'x',
      separator: '_',
      blocks: [{ id: 'a', kind: 'counter', scope: 'job', start: 1, digits: 3, orderBy: 'recorded' }],
    },
    folderPlan: { levels: [{ kind: 'job' }], proxyFolder: 'Proxy' },
  },
  '/api/naming/conventions/import': {
    format: 'sort-shelf-conventions',
    version: 1,
    conventions: [
      {
        convention: { name: 'y', separator: '_', blocks: [{ id: 'a', kind: 'words', text: 'x' }] },
        folderPlan: { levels: [], proxyFolder: 'Proxy' },
      },
    ],
  },
  '/api/naming/journal': { plan: '00000000-0000-4000-8000-000000000000' },
  '/api/jobs/SLW/naming/apply': {
    convention: { name: 'x', separator: '_', blocks: [{ id: 'a', kind: 'words', text: 'x' }] },
    folderPlan: { levels: [], proxyFolder: 'Proxy' },
    cards: [],
    without: [],
    fingerprint: 'x',
  },
  '/api/jobs/SLW/custody/check': { root: 'shelf', folder: 'Offloaded', list: null },
  '/api/places/roots': { kind: 'source', path: '/nowhere' },
  '/api/jobs/SLW/places/[id]/move': { to: '/nowhere' },
  '/api/templates/import': { format: 'sort-shelf-templates', version: 1, templates: [] },
  '/api/records/copied': {
    name: 'x',
    code: 'NEW',
    from: '00000000-0000-4000-8000-000000000000',
    folder: '/nowhere',
  },
  '/api/templates/begin': { name: 'x', code: 'SLW', template: 'ready Small documentary', folder: null },
  '/api/jobs/SLW/templates': { name: 'x', note: '', replace: false },
  '/api/jobs/SLW/templates/parts': { template: 'ready Small documentary', parts: ['cameras'] },
  '/api/jobs/SLW/watch': { root: 'shelf', path: 'Offloaded', options: { byItself: false } },
  '/api/jobs/SLW/watch/read': { watch: 'none' },
  '/api/jobs/SLW/next': { answer: 'leave', clip: null },
  '/api/places/folders': { path: '/nowhere', name: 'x' },
  '/api/jobs/SLW/proxies': { clips: ['x'] },
  '/api/jobs/SLW/proxies/pairs': { clips: ['x'] },
  '/api/jobs/SLW/proxies/watched': { clips: ['x'] },
  '/api/jobs/SLW/facts/read': { clips: ['x'] },
  '/api/jobs/SLW/intake/scan': { card: 'A001' },
  '/api/jobs/SLW/facts/correct': { clips: ['x'], field: 'reel', value: 'x' },
  '/api/jobs/SLW/proxies/work': { action: 'cancel', work: ['x'] },
  '/api/records/rescue': { how: 'snapshot', file: 'x' },
  '/api/jobs/SLW/facts/table': { fields: ['rate', 'reel'], words: 'x', sorting: { by: 'rate', down: true } },
  '/api/jobs/SLW/facts/ids': { words: 'x%_\\' },
  '/api/jobs/SLW/facts/lines': { words: '(', by: 'rate' },
  '/api/jobs/SLW/facts/compare': { clips: ['x'] },
  '/api/jobs/SLW/facts/extract': {
    from: { kind: 'folder', root: 'shelf', path: 'Offloaded' },
    fields: ['rate'],
    formats: ['csv'],
    looks: true,
  },
  '/api/facts/sets': { name: 'x', fields: ['rate'] },
  '/api/jobs/SLW/facts/clocks': {
    camera: 'A',
    fromDay: 1,
    toDay: 1,
    seconds: 1,
    kind: 'clock',
    because: 'x',
  },
  '/api/jobs/SLW/offload/[id]': { action: 'stop' },
};

/** What requests are made of, the same for the same seed. */
class Fuzz {
  readonly #random: () => number;
  constructor(seed: number) {
    this.#random = randomFrom(seed);
  }
  int(n: number): number {
    return Math.floor(this.#random() * n);
  }
  of<T>(list: readonly T[]): T {
    return list[this.int(list.length)]!;
  }
  value(depth = 0): unknown {
    const kind = this.int(depth > 3 ? 5 : 8);
    if (kind === 0) return null;
    if (kind === 1) return this.int(2) === 0;
    if (kind === 2) return this.of(NUMBERS);
    if (kind <= 4) return this.of(TEXTS);
    if (kind === 5) return Array.from({ length: this.int(4) }, () => this.value(depth + 1));
    if (kind === 6)
      return Object.fromEntries(
        Array.from({ length: this.int(4) }, () => [this.of(TEXTS), this.value(depth + 1)]),
      );
    return this.of([[], {}, '', 0]);
  }
  /** A right body with one to three of its parts replaced, taken out or doubled. */
  spoil(right: unknown): unknown {
    const copy = structuredClone(right);
    for (let times = 1 + this.int(3); times > 0; times--) this.#spoilOne(copy);
    return copy;
  }
  #spoilOne(node: unknown): void {
    if (typeof node !== 'object' || node === null) return;
    const keys = Object.keys(node);
    if (keys.length === 0) return;
    const key = this.of(keys);
    const holder = node as Record<string, unknown>;
    const inner = holder[key];
    if (typeof inner === 'object' && inner !== null && Object.keys(inner).length > 0 && this.int(3) > 0)
      return this.#spoilOne(inner);
    const how = this.int(5);
    if (how === 0) delete holder[key];
    else if (how === 1 && Array.isArray(inner))
      holder[key] = [...(inner as unknown[]), ...(inner as unknown[]), this.value()];
    else if (how === 2) holder[this.of(TEXTS)] = this.value();
    else holder[key] = this.value();
  }
  /** A body of any kind: spoilt, random, no JSON, nested without end, very long. */
  body(route: string): string {
    const right = RIGHT[route];
    const kind = this.int(20);
    if (kind === 0)
      return this.of([
        '',
        '{',
        'null',
        '[]',
        '""',
        '{"a":',
        '\ufeff{}',
        'NaN',
        '{"__proto__":{"x":1}}',
        '{"constructor":{"prototype":{}}}',
      ]);
    if (kind === 1) return '['.repeat(this.of([100, 10_000, 500_000]));
    if (kind === 2) return `{"a":${'{"a":'.repeat(5000)}1${'}'.repeat(5000)}}`;
    if (kind === 3)
      return JSON.stringify({
        clips: Array.from({ length: 20_000 }, (_, i) => `clip ${i}`),
        work: Array.from({ length: 20_000 }, (_, i) => `${i}`),
        action: 'cancel',
      });
    return JSON.stringify(right !== undefined && kind < 16 ? this.spoil(right) : this.value());
  }
  /** A path with its ids filled in, and a query of anything. */
  target(route: string, ids: readonly string[]): string {
    const inJob = this.int(8) === 0 ? route.replace('/jobs/SLW', '/jobs/[id]') : route;
    const filled = inJob.replace(/\[id\]/g, () =>
      this.int(3) === 0
        ? encodeURIComponent(this.of(ids))
        : this.of([
            '%ff',
            '%00',
            '%',
            '..',
            '%2e%2e',
            '%2f',
            'a'.repeat(3000),
            ...TEXTS.filter((t) => t.isWellFormed() && t !== '').map(encodeURIComponent),
          ]),
    );
    if (this.int(2) === 0) return filled;
    const pair = (): string => {
      const value = this.of(TEXTS);
      return `${this.of(['root', 'path', 'which', 'frame', 'width', 'as', 'also', 'x', '__proto__'])}=${this.int(6) === 0 ? this.of(['%ff', '%00', '%', '+']) : value.isWellFormed() ? encodeURIComponent(value) : '%ED%A0%80'}`;
    };
    return `${filled}?${Array.from({ length: 1 + this.int(4) }, pair).join('&')}`;
  }
}

/** Every route with random and hostile requests: each is answered, never with a fault of the server's own, and the footage stays. */
export async function fuzz(server: TestServer, pid: number, count: number): Promise<Tally> {
  const tally = new Tally('fuzzed_requests');
  const before = footageIn(server.shelf);
  const all = routes()
    .flatMap((r) => r.methods.map((method) => ({ route: r.path, method })))
    .filter((r) => r.route !== '/api/platform/events')
    // It would remove what the others are asked of.
    .filter((r) => r.method !== 'DELETE' || r.route !== '/api/jobs/SLW');
  let slowest = { seconds: 0, what: '' };
  const fuzzed = new Fuzz(20_261_126);
  const ids = ['A001', 'shelf', 'x'];
  await each(
    Array.from({ length: count }, (_, n) => n),
    8,
    async (n) => {
      const { route, method } = all[n % all.length]!;
      const path = fuzzed.target(route, ids);
      const body = method === 'GET' || method === 'DELETE' ? undefined : fuzzed.body(route);
      const what = `${method} ${path.slice(0, 120)} ${body === undefined ? '' : body.slice(0, 400)}`;
      const begun = performance.now();
      await ask(server.port, {
        method,
        path,
        ...(body === undefined ? {} : { headers: { 'content-type': 'application/json' }, body }),
        // Beside other tests the machine is slow; what hangs is still found.
        wait: 180_000,
      }).then(
        ({ status, headers, body: said }) => {
          const isProblem =
            status < 400 ||
            String(headers['content-type']).startsWith('application/problem+json') ||
            status === 404 ||
            status === 405;
          tally.tried(
            status >= 500
              ? `answered ${status}: ${what} → ${said.toString().slice(0, 300)}`
              : isProblem
                ? null
                : `answered ${status} as ${headers['content-type']}: ${what}`,
          );
        },
        (e: Error & { code?: string }) => {
          // What is no HTTP at all is hung up on.
          tally.tried(
            e.code === 'ECONNRESET' || e.code === 'ERR_INVALID_CHAR' || e.code === 'ERR_UNESCAPED_CHARACTERS'
              ? null
              : `${e.message}: ${what}`,
          );
        },
      );
      const seconds = (performance.now() - begun) / 1000;
      if (seconds > slowest.seconds) slowest = { seconds, what };
    },
  );
  console.log(`  the slowest of them: ${slowest.seconds.toFixed(1)} s, ${slowest.what.slice(0, 120)}`);
  // Pages, with what Next's own client sends, and what it does not.
  const pages = [
    '/',
    '/intake',
    '/card/%3Cx%3E',
    '/clip/x',
    '/copy/x',
    '/nowhere',
    '/_next/image?url=%2Fapi%2Fjob&w=640&q=75',
    '/_next/data/x/index.json',
    '/_next/static/../../package.json',
    '/api',
  ];
  const headers: Record<string, string>[] = [
    { rsc: '1' },
    { rsc: '1', 'next-router-state-tree': '%' },
    { rsc: '1', 'next-router-state-tree': '[' },
    { rsc: '1', 'next-router-state-tree': '[[],{}]' },
    { rsc: '1', 'next-router-state-tree': '["",{"children":[7]}]' },
    { 'next-action': 'x' },
    { 'next-action': 'a'.repeat(42), 'content-type': 'application/json' },
    { 'next-url': '//evil.example' },
    { cookie: '%; =; a=%ff' },
    { 'accept-language': ',;q=' },
  ];
  for (const path of pages) {
    for (const more of headers) {
      for (const method of ['GET', 'POST', 'PUT', 'TRACE']) {
        await ask(server.port, {
          method,
          path,
          headers: more,
          ...(method === 'POST'
            ? { body: '[]', headers: { 'content-type': 'application/json', ...more } }
            : {}),
        }).then(
          ({ status, body }) =>
            tally.tried(
              status >= 500 && status !== 501
                ? `answered ${status}: ${method} ${path} ${JSON.stringify(more)} → ${body.toString().slice(0, 200)}`
                : null,
            ),
          (e: Error & { code?: string }) =>
            tally.tried(
              e.code === 'ECONNRESET' ? null : `${e.message}: ${method} ${path} ${JSON.stringify(more)}`,
            ),
        );
      }
    }
  }
  // Targets that no page asks for: of other forms, of other hosts, of Next's own.
  for (const target of [
    '*',
    'http://evil.example/api/jobs/SLW',
    `http://127.0.0.1:${server.port}/api/jobs/SLW`,
    '//evil.example',
    '/\\evil.example',
    '/%5Cevil.example/',
    '/_global-error',
    '/_global-error?x',
    '/_error',
    '/_not-found',
    '/404',
    '/500',
    '/_app',
    '/_next/',
    '/_next/static/..\\..\\api/job',
    '/_next/static/..%2f..%2fapi/job',
    '/card/%2e%2e',
    '/.env',
    '/_next/mcp',
    '/__nextjs_source-map?filename=/etc/passwd',
  ]) {
    for (const method of ['GET', 'POST', 'OPTIONS', 'HEAD']) {
      const said = await rawHead(
        server.port,
        `${method} ${target} HTTP/1.1\r\nHost: 127.0.0.1:${server.port}\r\nConnection: close\r\n\r\n`,
      );
      const away = /^location: *(?:\w+:)?[/\\]{2}/im.test(said);
      tally.tried(
        /^HTTP\/1.1 5/.test(said)
          ? `answered ${said.split('\r\n', 1)[0]}: ${method} ${target}`
          : away
            ? `sends to another host: ${method} ${target}`
            : null,
      );
    }
  }
  tally.tried(
    (await ask(server.port, { path: '/api/platform/health' })).status === 200
      ? null
      : 'the server is not well afterwards',
  );
  tally.tried(
    JSON.stringify(footageIn(server.shelf)) === JSON.stringify(before)
      ? null
      : 'the shelf does not hold the same footage',
  );
  tally.tried(
    vitals(pid).memory < 2.5e9 ? null : `it takes ${Math.round(vitals(pid).memory / 1e6)} MB afterwards`,
  );
  return tally;
}

const pause = (ms: number): Promise<void> => new Promise((r) => setTimeout(r, ms));
/** Waits until something holds, at most `ms`. */
const settles = (what: () => boolean, ms: number): Promise<boolean> =>
  until(() => Promise.resolve(what()), Boolean, ms / 1000);

/** Streams that are opened and left, upgrades, slow clients, heads, ranges and very many requests at once. */
export async function load(
  server: TestServer,
  pid: number,
  many: number,
  media: { id: string; bytes: Buffer },
): Promise<Tally> {
  const tally = new Tally('load');
  const { port } = server;
  const rest = vitals(pid).open;
  const open = (text: string): Promise<Socket> =>
    new Promise((resolve, reject) => {
      const socket = connect(port, '127.0.0.1', () => socket.write(text, () => resolve(socket)));
      socket.once('error', reject);
    });
  const head = (path: string, more = ''): string =>
    `GET ${path} HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\n${more}\r\n`;

  const streams = await Promise.all(Array.from({ length: 300 }, () => open(head('/api/platform/events'))));
  await pause(500);
  for (const s of streams) s.destroy();
  tally.tried(
    (await settles(() => vitals(pid).open <= rest + 20, 10_000))
      ? null
      : `300 event streams that were left: ${vitals(pid).open} files open, ${rest} before`,
  );

  for (const path of ['/', '/api/platform/events', '/nowhere', '/_next/webpack-hmr', '/api/jobs/SLW']) {
    const sockets = await Promise.all(
      Array.from({ length: 20 }, () =>
        open(
          head(
            path,
            'Connection: Upgrade\r\nUpgrade: websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n',
          ),
        ),
      ),
    );
    let closed = 0;
    for (const s of sockets) {
      s.on('error', () => undefined).on('close', () => {
        closed++;
      });
      s.resume();
    }
    tally.tried(
      (await settles(() => closed === 20, 30_000))
        ? null
        : `${20 - closed} of 20 upgrades at ${path} were left open`,
    );
    for (const s of sockets) s.destroy();
  }

  // They are answered, and never close their side.
  const unparsed = Array.from({ length: 100 }, () => {
    const socket = connect({ port, host: '127.0.0.1', allowHalfOpen: true }, () =>
      socket.write('<xml/>\r\n\r\n'),
    );
    return socket.on('error', () => undefined).resume();
  });
  await Promise.all(unparsed.map((s) => new Promise((r) => s.once('end', r).once('close', r))));
  tally.tried(
    (await settles(() => vitals(pid).open <= rest + 20, 10_000))
      ? null
      : '100 connections that sent no HTTP were left open',
  );
  for (const s of unparsed) s.destroy();

  const slow = await Promise.all(
    Array.from({ length: 200 }, () =>
      open(
        `POST /api/jobs/SLW HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{`,
      ),
    ),
  );
  const began = performance.now();
  const answer = await ask(port, { path: '/api/platform/health' });
  tally.tried(
    answer.status === 200 && performance.now() - began < 20_000
      ? null
      : 'nobody is answered while 200 clients send slowly',
  );
  for (const s of slow) s.destroy();
  tally.tried(
    (await settles(() => vitals(pid).open <= rest + 20, 10_000))
      ? null
      : `200 slow clients that were left: ${vitals(pid).open} files open, ${rest} before`,
  );

  for (const { path, methods } of routes()) {
    if (!methods.includes('GET')) continue;
    const filled = path.replace('[id]', media.id);
    await Promise.all(
      Array.from({ length: 5 }, () =>
        ask(port, {
          method: 'HEAD',
          path: `${filled}?root=shelf&path=Offloaded&which=original&frame=0`,
        }).catch(() => null),
      ),
    );
  }
  tally.tried(
    (await settles(() => vitals(pid).open <= rest + 20, 10_000))
      ? null
      : `heads: ${vitals(pid).open} files open, ${rest} before`,
  );

  const size = media.bytes.length;
  const cases: [string, number, number | null, number | null][] = [
    ['bytes=0-99', 206, 0, 100],
    ['bytes=100-', 206, 100, size],
    ['bytes=-50', 206, size - 50, size],
    [`bytes=0-${size * 2}`, 206, 0, size],
    [`bytes=${size}-`, 416, null, null],
    ['bytes=9-3', 416, null, null],
    ['bytes=-0', 416, null, null],
    // No range by RFC 9110 (14.1.2, from memory): the whole file.
    ['bytes=-', 200, 0, size],
    ['bytes=0-1,5-9', 200, 0, size],
    ['chunks=0-9', 200, 0, size],
    ['bytes=abc', 200, 0, size],
    ['bytes=99999999999999999999-', 416, null, null],
    ['bytes= 0-9', 206, 0, 10],
    ['bytes=1e3-', 200, 0, size],
  ];
  for (const [range, status, from, to] of cases) {
    const got = await ask(port, {
      path: `/api/jobs/SLW/viewing/${media.id}/media`,
      headers: { range },
      most: 1e9,
    });
    const right =
      got.status === status && (from === null || got.body.equals(media.bytes.subarray(from, to!)));
    tally.tried(right ? null : `range ${range}: ${got.status}, ${got.body.length} bytes`);
  }
  await Promise.all(
    Array.from({ length: 50 }, () =>
      ask(port, { path: `/api/jobs/SLW/viewing/${media.id}/media`, most: 1 }).catch(() => null),
    ),
  );
  tally.tried(
    (await settles(() => vitals(pid).open <= rest + 20, 10_000))
      ? null
      : `players that left: ${vitals(pid).open} files open, ${rest} before`,
  );

  const peak = { memory: 0 };
  const watch = setInterval(() => {
    peak.memory = Math.max(peak.memory, vitals(pid).memory);
  }, 100);
  let unanswered = 0;
  await each(
    Array.from({ length: many }, (_, n) => n),
    200,
    async (n) => {
      const path = [
        '/api/jobs/SLW/overview/wall',
        '/api/jobs/SLW',
        '/',
        '/api/jobs/SLW/logbook',
        `/api/jobs/SLW/overview/clips/${media.id}`,
      ][n % 5]!;
      await ask(port, { path, wait: 60_000 }).then(
        ({ status }) => {
          if (status !== 200) unanswered++;
        },
        () => {
          unanswered++;
        },
      );
    },
  );
  clearInterval(watch);
  tally.tried(unanswered === 0 ? null : `${unanswered} of ${many} requests at once were not answered`);
  tally.tried(
    peak.memory < 2.5e9 ? null : `${many} requests at once took ${Math.round(peak.memory / 1e6)} MB`,
  );
  console.log(`  ${many} requests, 200 at once: ${Math.round(peak.memory / 1e6)} MB at most`);

  const large = await rawHead(
    port,
    `POST /api/jobs/SLW/facts/read HTTP/1.1\r\nHost: 127.0.0.1:${port}\r\nContent-Type: application/json\r\nContent-Length: ${MAX_BODY + 1}\r\n\r\n{`,
  );
  tally.tried(large.includes(' 413 ') ? null : `a body that says it is too large: ${large}`);
  tally.tried(
    (await settles(() => !children(pid).some((c) => /^(?:ffmpeg|ffprobe)$/.test(c)), 15_000))
      ? null
      : `programs are left over: ${children(pid).join(', ')}`,
  );
  return tally;
}
