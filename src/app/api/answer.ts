import * as z from 'zod';
import { MAX_BODY, tooLarge } from '../../core/platform/doors';
import type { ProblemDetails } from '../../core/platform/shapes';
import { jobByCode } from '../../server/jobs';
import { Refused } from '../../server/platform/errors';
import { type InJob, type Runtime, runtime } from '../../server/runtime';
import { problemOf } from '../../server/platform/problems';

const problem = (p: ProblemDetails): Response =>
  Response.json(p, { status: p.status, headers: { 'content-type': 'application/problem+json' } });

/** Runs what needs no open database and turns what it throws into a JSON problem (RFC 9457). */
export async function said(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? null);
  } catch (e) {
    if (e instanceof z.ZodError) {
      const detail = e.issues
        .map((i) => `${i.path.length > 0 ? `${i.path.join('.')}: ` : ''}${i.message}`)
        .join('; ');
      return problem({
        type: 'about:blank',
        title: 'Not understood',
        status: 400,
        detail,
        next: 'Correct it and try again.',
      });
    }
    return problem(problemOf(e));
  }
}

/** Deeper than this no request is nested. */
const DEEPEST = 30;

/** Refuses text that neither the disk nor the database can hold, and nesting without end. */
function checkText(raw: unknown, depth = 0): void {
  const refuse = (message: string) => new z.ZodError([{ code: 'custom', path: [], message, input: null }]);
  if (depth > DEEPEST) throw refuse('the request is nested too deeply');
  if (typeof raw === 'string' && (raw.includes('\0') || !raw.isWellFormed()))
    throw refuse('a text holds a zero byte or half a character');
  if (typeof raw === 'object' && raw !== null) {
    for (const [key, value] of Object.entries(raw)) {
      checkText(key, depth);
      checkText(value, depth + 1);
    }
  }
}

/** The same with a body, checked first. */
export const saidTo = <T extends z.ZodType>(
  request: Request,
  shape: T,
  work: (body: z.infer<T>) => Promise<unknown>,
): Promise<Response> =>
  said(async () => {
    const text = await request.text();
    // Of a longer body no more than that comes through.
    if (Buffer.byteLength(text) >= MAX_BODY)
      return problem({ type: 'about:blank', ...tooLarge(Buffer.byteLength(text)) });
    const raw: unknown = await Promise.resolve(text)
      .then(JSON.parse)
      .catch(() => {
        throw new z.ZodError([{ code: 'custom', path: [], message: 'the request is not JSON', input: null }]);
      });
    checkText(raw);
    return work(shape.parse(raw));
  });

/** The runtime, as long as its data folder is there. */
async function opened(): Promise<Runtime> {
  const there = await runtime();
  await there.checkHome();
  return there;
}

/** Runs a use case. */
export const answer = (work: (runtime: Runtime) => Promise<unknown>): Promise<Response> =>
  said(async () => work(await opened()));

/** The same with a body, checked first. */
export const answerTo = <T extends z.ZodType>(
  request: Request,
  shape: T,
  work: (runtime: Runtime, body: z.infer<T>) => Promise<unknown>,
): Promise<Response> => saidTo(request, shape, async (body) => work(await opened(), body));

/** What an address below a job gives beside the request: the job's code, and what else it names. */
export interface InJobContext<P extends object = object> {
  params: Promise<{ job: string } & P>;
}

/** The job of an address; with `changing`, refused where it is archived. */
async function jobOf(code: string, changing: boolean): Promise<InJob> {
  const there = await opened();
  const job = await jobByCode(there, code);
  if (changing && job.putAwayAt !== null)
    throw new Refused(`${job.name} is archived: it cannot be changed.`, {
      next: 'Reopen it first.',
    });
  return there.inJob(job.id);
}

/** The ways to run a use case in the job that the address names, without a body and with one that is checked first. */
const inJobs = (changing: boolean) => ({
  run: <P extends object>(
    { params }: InJobContext<P>,
    work: (runtime: InJob, params: { job: string } & P) => Promise<unknown>,
  ): Promise<Response> =>
    said(async () => {
      const named = await params;
      return work(await jobOf(named.job, changing), named);
    }),
  runTo: <T extends z.ZodType, P extends object>(
    request: Request,
    { params }: InJobContext<P>,
    shape: T,
    work: (runtime: InJob, body: z.infer<T>, params: { job: string } & P) => Promise<unknown>,
  ): Promise<Response> =>
    saidTo(request, shape, async (body) => {
      const named = await params;
      return work(await jobOf(named.job, changing), body, named);
    }),
});

/** For what changes nothing of the job. */
export const { run: inJob, runTo: inJobTo } = inJobs(false);
/** For what changes it: refused where it is archived. */
export const { run: change, runTo: changeTo } = inJobs(true);
