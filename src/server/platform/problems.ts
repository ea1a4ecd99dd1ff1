import { DrizzleQueryError } from 'drizzle-orm';
import { shownPath } from '../../core/platform/names';
import type { ProblemDetails } from '../../core/platform/shapes';
import { isCode, isFull, messageOf, ShelfError } from './errors';

/** What is said of work that was stopped before it had begun. */
export const stoppedBefore: ProblemDetails = {
  type: 'about:blank',
  title: 'Stopped',
  status: 409,
  detail: 'It was stopped.',
  next: 'What was done until then stays as the logbook says.',
};

/** SQLSTATEs of values that the database cannot take: a text that is no number or id, one out of range, bytes that are no text. */
const REFUSED_VALUES = ['22003', '22007', '22008', '22021', '22P02', '22P05'];

/** Anything thrown as a JSON problem (RFC 9457). */
export function problemOf(e: unknown): ProblemDetails {
  if (e instanceof ShelfError) return e.problem();
  const of = (title: string, next: string, status = 422): ProblemDetails => ({
    type: 'about:blank',
    title,
    status,
    detail: shownPath(messageOf(e)),
    next,
  });
  if (isCode(e, 'STOPPED')) return of('Stopped', 'What was done until then stays as the logbook says.', 409);
  if (isCode(e, 'EACCES', 'EPERM', 'EROFS'))
    return of('Not allowed', 'Check the permissions of the folder, or whether its volume is read only.');
  if (isFull(e)) return of('Full', 'Make room on the volume, then try again.');
  if (isCode(e, 'ENAMETOOLONG'))
    return of('Name too long', 'The system cannot hold a path of this length: choose a shorter one.');
  if (isCode(e, 'ENOENT', 'ENOTDIR'))
    return of('Not found', 'Connect the volume, or look at the folder again.', 404);
  if (isCode(e, 'ELOOP', 'EISDIR', 'EINVAL', 'EXDEV', 'ENXIO'))
    return of('Refused', 'Choose another file or folder.');
  if (isCode(e, 'EIO', 'ENODEV', 'ESTALE', 'ETIMEDOUT'))
    return of('Unreadable', 'Check the volume and its cable, then try again.');
  if (isCode(e, 'EMFILE', 'ENFILE'))
    return of('Busy', 'Too many files are open at once. Try again in a moment.', 503);
  // What the database cannot hold (SQLSTATE 22xxx: a number out of range, a text that is no id).
  if (e instanceof DrizzleQueryError && isCode(e.cause, ...REFUSED_VALUES))
    return of('Not understood', 'Correct it and try again.', 400);
  console.error(e);
  return of('Unexpected', 'The server’s console has the details.', 500);
}
