import { describe, expect, test } from '@jest/globals';
import {
  cookieIn,
  type House,
  isBeyond,
  pagePolicy,
  portOf,
  refusalOf,
  tooLarge,
  Tries,
  TRIES,
} from './doors';

// Fetch metadata: W3C “Fetch Metadata Request Headers”; Origin: RFC 6454 and the Fetch standard; both from memory.

const knock = (method: string, path: string, headers: Record<string, string>) => ({
  method,
  path,
  header: (name: string) => headers[name] ?? null,
});
const home: House = { listen: undefined, holds: () => false };
const status = (method: string, path: string, headers: Record<string, string>, house: House = home) =>
  refusalOf(knock(method, path, headers), house)?.status ?? 200;
const here = { host: '127.0.0.1:4100' };
const json = { ...here, 'content-type': 'application/json', 'content-length': '2' };

describe('hosts', () => {
  test.each(['127.0.0.1:4100', 'localhost:4100', 'LOCALHOST:4100', '127.8.9.1', '[::1]:4100', '[::1]'])(
    '%s is this machine',
    (host) => {
      expect(status('GET', '/', { host })).toBe(200);
      expect(status('GET', '/api/jobs/SLW', { host })).toBe(200);
    },
  );
  test.each([
    '',
    'localhost.',
    'localhost.evil.example',
    '127.0.0.1.evil.example',
    'evil.example',
    '127.0.0.1:4100@evil.example',
    '0.0.0.0:4100',
    '192.168.1.4',
    '[::ffff:127.0.0.1]',
    '2130706433',
    '127.0.0.1:',
    '127.0.0.1:x',
    ' localhost',
    'local host',
  ])('“%s” is not, for pages or anything else', (host) => {
    expect(status('GET', '/', { host })).toBe(403);
    expect(status('POST', '/api/jobs/SLW', { ...json, host })).toBe(403);
  });
});

describe('pages from elsewhere', () => {
  test.each([
    'http://evil.example',
    'null',
    'http://127.0.0.1:4101',
    'https://127.0.0.1:4100',
    'http://localhost:4100',
    'http://127.0.0.1:4100.evil.example',
    'HTTP://127.0.0.1:4100',
    'file://',
    '',
  ])('of origin “%s” are refused, to read and to write', (origin) => {
    for (const method of ['GET', 'HEAD', 'POST', 'PATCH', 'DELETE', 'OPTIONS'])
      expect(status(method, '/api/jobs/SLW', { ...json, origin })).toBe(403);
  });
  test('Sort Shelf’s own pages are not', () => {
    expect(
      status('POST', '/api/jobs/SLW', {
        ...json,
        origin: 'http://127.0.0.1:4100',
        'sec-fetch-site': 'same-origin',
      }),
    ).toBe(200);
    expect(
      status('GET', '/api/jobs/SLW', { ...here, 'sec-fetch-site': 'none', 'sec-fetch-mode': 'navigate' }),
    ).toBe(200);
  });
  test.each(['cross-site', 'same-site'])(
    'a request that says it is %s reaches nothing but a page by a link',
    (site) => {
      const said = { ...here, 'sec-fetch-site': site };
      const link = { ...said, 'sec-fetch-mode': 'navigate', 'sec-fetch-dest': 'document' };
      expect(status('GET', '/card/A001', link)).toBe(200);
      expect(status('GET', '/api/jobs/SLW/intake/play', link)).toBe(403);
      expect(status('GET', '/api', link)).toBe(403);
      expect(status('POST', '/card/A001', link)).toBe(403);
      for (const dest of ['iframe', 'image', 'video', 'script', 'embed', 'empty'])
        expect(status('GET', '/', { ...link, 'sec-fetch-dest': dest })).toBe(403);
      for (const mode of ['no-cors', 'cors', 'websocket'])
        expect(status('GET', '/api/jobs/SLW/intake/play', { ...said, 'sec-fetch-mode': mode })).toBe(403);
    },
  );
});

describe('bodies', () => {
  test.each([
    'text/plain',
    'application/x-www-form-urlencoded',
    'multipart/form-data; boundary=x',
    '',
    'text/json',
    'application/jsonp',
    'application/json-patch+json',
  ])('of type “%s” are not taken', (type) => {
    expect(status('POST', '/api/jobs/SLW', { ...json, 'content-type': type })).toBe(415);
    expect(
      status('POST', '/api/jobs/SLW', { ...here, 'content-type': type, 'transfer-encoding': 'chunked' }),
    ).toBe(415);
  });
  test.each(['application/json', 'application/json; charset=utf-8', 'Application/JSON'])(
    'of type “%s” are',
    (type) => expect(status('POST', '/api/jobs/SLW', { ...json, 'content-type': type })).toBe(200),
  );
  test('none is needed where nothing is sent', () =>
    expect(status('DELETE', '/api/jobs/SLW/overview/cards/A001', here)).toBe(200));
  test('one that is too large is said to be', () =>
    expect(tooLarge(25_000_000).detail).toBe('The request has 25.0 MB; at most 10 MB are taken.'));
});

describe('listening beyond this machine', () => {
  test.each<[string | undefined, boolean]>([
    [undefined, false],
    ['', false],
    ['127.0.0.1', false],
    ['localhost', false],
    ['::1', false],
    ['0.0.0.0', true],
    ['::', true],
    ['192.168.1.4', true],
    ['shelf.local', true],
  ])('%s: %s', (listen, beyond) => expect(isBeyond(listen)).toBe(beyond));

  const house = { listen: '0.0.0.0', holds: (token: string) => token === 'known' };
  const host = '192.168.1.4:4100';
  test('everybody is asked for the secret, for everything, from this machine as well', () => {
    for (const h of [host, '127.0.0.1:4100', 'shelf.local'])
      for (const path of ['/', '/api/jobs/SLW', '/api/platform/events'])
        expect(status('GET', path, { host: h }, house)).toBe(401);
    expect(status('POST', '/api/jobs/SLW', { ...json, host }, house)).toBe(401);
    for (const cookie of [
      'sort-shelf-4100=',
      'sort-shelf-4100=other',
      'sort-shelf-80=known',
      'xsort-shelf-4100=known',
      'sort-shelf-4100',
    ])
      expect(status('GET', '/', { host, cookie }, house)).toBe(401);
  });
  test('who has given it is let in, by any name of the machine, and pages from elsewhere are not', () => {
    const known = { host, cookie: 'a=b; sort-shelf-4100=known' };
    expect(status('GET', '/api/jobs/SLW', known, house)).toBe(200);
    expect(status('POST', '/api/jobs/SLW', { ...json, ...known, origin: `http://${host}` }, house)).toBe(200);
    expect(status('POST', '/api/jobs/SLW', { ...json, ...known, origin: `https://${host}` }, house)).toBe(
      200,
    );
    expect(status('POST', '/api/jobs/SLW', { ...json, ...known, origin: 'http://evil.example' }, house)).toBe(
      403,
    );
    expect(
      status('GET', '/api/jobs/SLW/intake/play', { ...known, 'sec-fetch-site': 'cross-site' }, house),
    ).toBe(403);
  });
});

test('cookies and ports', () => {
  expect(cookieIn('a=1; b=2=3', 'b')).toBe('2=3');
  expect(cookieIn(null, 'b')).toBeNull();
  expect([portOf('[::1]:4100'), portOf('[::1]'), portOf('x:99'), portOf('x')]).toEqual([
    '4100',
    '80',
    '99',
    '80',
  ]);
});

test('wrong secrets are counted by who gives them, and forgotten after a while', () => {
  const tries = new Tries();
  for (let n = 0; n < TRIES.most; n++) {
    expect(tries.may('a', n)).toBe(true);
    tries.wrong('a', n);
  }
  expect([tries.may('a', 100), tries.may('b', 100), tries.may('a', TRIES.within + 5)]).toEqual([
    false,
    true,
    true,
  ]);
});

test('a page runs its own scripts only, and cannot be framed', () => {
  const policy = pagePolicy('abc');
  expect(policy).toContain("script-src 'self' 'nonce-abc';");
  for (const part of ["default-src 'none'", "frame-ancestors 'none'", "object-src 'none'", "base-uri 'none'"])
    expect(policy).toContain(part);
});
