import { expect, jest, test } from '@jest/globals';
import { DrizzleQueryError } from 'drizzle-orm';
import { problemOf } from './problems';

const refused = (cause: object) =>
  new DrizzleQueryError('insert into …', ['all that was given'], Object.assign(new Error('no'), cause));

test.each([
  ['by the database', { code: '53100' }],
  ['by its engine', { errno: 51 }],
])('a database whose volume is full is said so, %s', (_, cause) => {
  expect(problemOf(refused(cause))).toMatchObject({
    title: 'Full',
    status: 422,
    detail: 'The data folder’s volume is full.',
    next: 'Make room on the volume, then try again.',
  });
});

test('a file that does not fit is said with its path; what nobody expected leaves its trace on the console', () => {
  const full = Object.assign(new Error("ENOSPC: no space left on device, open '/n/x'"), {
    ...{ code: 'ENOSPC', syscall: 'open', path: '/n/x' },
  });
  expect(problemOf(full)).toMatchObject({ title: 'Full', detail: '/n/x: the volume is full (ENOSPC)' });
  const said = jest.spyOn(console, 'error').mockImplementation(() => undefined);
  expect(problemOf(refused({ code: '23505' }))).toMatchObject({ title: 'Unexpected', status: 500 });
  expect(said).toHaveBeenCalledTimes(1);
  said.mockRestore();
});
