import { z } from 'zod';
import type { ProblemDetails } from '../../core/shapes';
import { type Runtime, runtime } from '../../server/runtime';
import { problemOf } from '../../server/tasks';

const problem = (p: ProblemDetails): Response => Response.json(p, { status: p.status, headers: { 'content-type': 'application/problem+json' } });

/** Runs a use case and turns what it throws into a JSON problem (RFC 9457). */
export async function answer(work: (runtime: Runtime) => Promise<unknown>): Promise<Response> {
  try {
    const result = await work(await runtime());
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
export async function answerTo<T extends z.ZodType>(request: Request, shape: T, work: (runtime: Runtime, body: z.infer<T>) => Promise<unknown>): Promise<Response> {
  return answer(async (r) => {
    const raw: unknown = await request.json().catch(() => {
      throw new z.ZodError([{ code: 'custom', path: [], message: 'the request is not JSON', input: null }]);
    });
    return work(r, shape.parse(raw));
  });
}
