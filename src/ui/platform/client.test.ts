import { afterEach, describe, expect, jest, test } from '@jest/globals';
import { library, ServerProblem } from './client';

const real = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = real;
  jest.restoreAllMocks();
});
const answer = (response: () => Promise<Response>): void => {
  globalThis.fetch = response;
};
/** What a call says that fails. */
async function problem(): Promise<ServerProblem['details']> {
  const thrown: unknown = await library.jobs().then(
    () => null,
    (e: unknown) => e,
  );
  if (!(thrown instanceof ServerProblem)) throw thrown;
  return thrown.details;
}

describe('what comes from the server', () => {
  test('is handed on where it is of the shape that is known', async () => {
    answer(() => Promise.resolve(Response.json([])));
    expect(await library.jobs()).toEqual([]);
  });

  test('of another version asks for the page to be loaded anew, and is told to whoever looks for the fault', async () => {
    const said = jest.spyOn(console, 'error').mockImplementation(() => undefined);
    answer(() => Promise.resolve(Response.json([{ title: 'a job of tomorrow' }])));
    expect(await problem()).toMatchObject({
      title: 'Not understood',
      detail: expect.stringContaining('earlier version'),
      next: 'Reload the page.',
    });
    expect(String(said.mock.calls[0]![0])).toContain('name');
  });

  test.each([
    ['nothing, for it is not there', () => Promise.reject(new TypeError('Failed to fetch'))],
    ['half an answer, for it was ended', () => Promise.resolve(new Response('[{"name":"Slack W'))],
  ])('%s: said so', async (_, response) => {
    answer(response);
    expect(await problem()).toMatchObject({ title: 'No answer', detail: 'Sort Shelf does not answer.' });
  });

  test('a problem is said as the server says it; an answer of a stranger by its number', async () => {
    answer(() =>
      Promise.resolve(
        Response.json(
          {
            type: 'about:blank',
            title: 'Refused',
            status: 409,
            detail: 'It is archived.',
            next: 'Reopen it.',
          },
          { status: 409 },
        ),
      ),
    );
    expect(await problem()).toMatchObject({ detail: 'It is archived.', next: 'Reopen it.' });
    answer(() => Promise.resolve(new Response('<h1>Bad gateway</h1>', { status: 502 })));
    expect(await problem()).toMatchObject({ detail: 'The server answered 502.' });
  });
});
