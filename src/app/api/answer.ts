import { z } from 'zod';
import type { ProblemDetails } from '../../core/shapes';
import { type Runtime, runtime } from '../../server/runtime';
import { problemOf } from '../../server/tasks';

const problem = (p: ProblemDetails): Response => Response.json(p, { status: p.status, headers: { 'content-type': 'application/problem+json' } });

/** Runs what needs no open database and turns what it throws into a JSON problem (RFC 9457). */
export async function said(work: () => Promise<unknown>): Promise<Response> {
  try {
    const result = await work();
    return result instanceof Response ? result : Response.json(result ?? null);
  } catch (e) {
    if (e instanceof z.ZodError) {
      const detail = e.issues.map((i) => `${i.path.length > 0 ? `${i.path.join('.')}: ` : ''}${i.message}`).join('; ');
      return problem({ type: 'about:blank', title: 'Not understood', status: 400, detail, next: 'Correct it and try again.' });
    }
    return problem(problemOf(e));
  }
}

/** The same with a body, checked first. */
export const saidTo = <T extends z.ZodType>(request: Request, shape: T, work: (body: z.infer<T>) => Promise<unknown>): Promise<Response> => said(async () => {
  const raw: unknown = await request.json().catch(() => {
    throw new z.ZodError([{ code: 'custom', path: [], message: 'the request is not JSON', input: null }]);
  });
  return work(shape.parse(raw));
});

/** Runs a use case. */
export const answer = (work: (runtime: Runtime) => Promise<unknown>): Promise<Response> => said(async () => work(await runtime()));

/** The same with a body, checked first. */
export const answerTo = <T extends z.ZodType>(request: Request, shape: T, work: (runtime: Runtime, body: z.infer<T>) => Promise<unknown>): Promise<Response> =>
  saidTo(request, shape, async (body) => work(await runtime(), body));
