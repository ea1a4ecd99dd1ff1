import { DrizzleQueryError } from 'drizzle-orm';
import { type DiskPath, shownPath } from '../../core/platform/names';
import { DATABASE_LOST, type ProblemDetails } from '../../core/platform/shapes';

/** What went wrong, as the interface is told. `file` is the file it is about, `next` what the person can do. */
export abstract class ShelfError extends Error {
  abstract readonly status: number;
  abstract readonly title: string;
  constructor(
    message: string,
    readonly about: { file?: DiskPath; next?: string } = {},
  ) {
    super(message);
  }

  problem(): ProblemDetails {
    const { file, next } = this.about;
    return {
      type: 'about:blank',
      title: this.title,
      status: this.status,
      detail: shownPath(this.message),
      ...(file === undefined ? {} : { file: shownPath(file) }),
      ...(next === undefined ? {} : { next: shownPath(next) }),
    };
  }
}

/** A folder, file, clip or plan that is not there (any more). */
export class NotFound extends ShelfError {
  readonly status = 404;
  readonly title = 'Not found';
}
/** Something that would break a rule of safety, or makes no sense: nothing was done. */
export class Refused extends ShelfError {
  readonly status = 422;
  readonly title = 'Refused';
}
/** Something else is at the place, or the state has moved on meanwhile. */
export class Clash extends ShelfError {
  readonly status = 409;
  readonly title = 'Clash';
}
/** A file whose contents cannot be read. */
export class Unreadable extends ShelfError {
  readonly status = 422;
  readonly title = 'Unreadable';
}
/** The database is damaged or gone: what is to be done is the person's to choose. */
export class DatabaseLost extends ShelfError {
  readonly status = 503;
  readonly title = DATABASE_LOST;
}
/** A database server that cannot be reached. */
export class Unreachable extends ShelfError {
  readonly status = 503;
  readonly title = 'Database not reached';
}
/** The folder of all of Sort Shelf's data went away while it ran: nothing can be kept. */
export class DataFolderGone extends ShelfError {
  readonly status = 503;
  readonly title = 'Data folder gone';
}
/** Work that was stopped before its end. */
export class Interrupted extends ShelfError {
  readonly status = 409;
  readonly title = 'Interrupted';
}

/** What was thrown, as an error. */
export const asError = (e: unknown): Error => (e instanceof Error ? e : new Error(String(e)));

/** What is said where the database has no room for what is to be kept. */
export const NO_ROOM = 'The data folder’s volume is full.';

/** What the system's codes mean, for a person. */
export const CODE_WORDS: Record<string, string> = {
  ENOSPC: 'the volume is full',
  EDQUOT: 'no more may be written on this volume',
  EROFS: 'the volume is read-only',
  EACCES: 'this user has no permission',
  EPERM: 'the system does not allow it',
  EIO: 'the volume gave an error',
  EBUSY: 'another program has it open',
  ETXTBSY: 'another program has it open',
  ENAMETOOLONG: 'the name is too long for this volume',
  EILSEQ: 'the volume does not take this name',
  ENODEV: 'the volume is no longer there',
  ENXIO: 'the volume is no longer there',
  ENOENT: 'it is not there',
  ENOTCONN: 'the volume is not connected',
  ESTALE: 'the volume is not connected',
  ETIMEDOUT: 'the volume did not answer in time',
  EEXIST: 'something of that name is there already',
  EISDIR: 'a folder has the name of the file',
  ENOTDIR: 'a file has the name of the folder',
  ENOTEMPTY: 'the folder is not empty',
  EXDEV: 'it is on another volume',
  ELOOP: 'it is a link, or links lead in a circle',
  EMFILE: 'too many files are open',
  ENFILE: 'too many files are open',
};

/** The code of a thrown thing ("ENOENT"); empty where it has none. */
export const codeOf = (e: unknown): string =>
  typeof e === 'object' && e !== null && 'code' in e ? String(e.code) : '';

/** The message of anything thrown, in one line: of what the system refused, which file it was and why. */
export const messageOf = (e: unknown): string => {
  // The statement and all it was given are no words for a person; why the database refused it is.
  if (e instanceof DrizzleQueryError && isFull(e)) return NO_ROOM;
  if (e instanceof DrizzleQueryError && e.cause) return `the database did not take it: ${messageOf(e.cause)}`;
  const words = CODE_WORDS[codeOf(e)];
  if (words !== undefined && typeof e === 'object' && e !== null && 'syscall' in e)
    return `${'path' in e ? `${String(e.path)}: ` : ''}${words} (${codeOf(e)})`;
  if (e instanceof Error) return e.message;
  // An engine of another language throws what is no error of ours.
  return typeof e === 'object' && e !== null
    ? [
        ...new Set(
          ['name', 'message', 'errno'].flatMap((k) =>
            k in e ? [String((e as Record<string, unknown>)[k])] : [],
          ),
        ),
      ].join(' ') || 'no reason was given'
    : String(e);
};

/** Whether a thrown thing is a file system error of a code ("ENOENT"). */
export const isCode = (e: unknown, ...codes: string[]): boolean => codes.includes(codeOf(e));

/** Whether a volume is full, as the system says it, the database (SQLSTATE 53100), or its engine by a number of its own (51, WASI). */
export function isFull(thrown: unknown): boolean {
  const e = thrown instanceof DrizzleQueryError ? thrown.cause : thrown;
  return (
    isCode(e, 'ENOSPC', 'EDQUOT', '53100') ||
    (typeof e === 'object' && e !== null && 'errno' in e && e.errno === 51)
  );
}
