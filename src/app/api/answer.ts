import { z } from 'zod';
import type { ProblemDetails } from '../../core/shapes';
import { isCode, messageOf, ShelfError } from '../../server/errors';
import { type Runtime, runtime } from '../../server/runtime';

const problem = (p: ProblemDetails): Response => Response.json(p, { status: p.status, headers: { 'content-type': 'application/problem+json' } });

/** Runs a use case and turns what it throws into a JSON problem (RFC 9457). */
export async function answer(work: (runtime: Runtime) => Promise<unknown>): Promise<Response> {
  try {
    const result = await work(await runtime());
    return result instanceof Response ? result : Response.json(result ?? null);
  } catch (e) {
    if (e instanceof ShelfError) return problem(e.problem());
    if (e instanceof z.ZodError) {
      const detail = e.issues.map((i) => `${i.path.length > 0 ? `${i.path.join('.')}: ` : ''}${i.message}`).join('; ');
      return problem({ type: 'about:blank', title: 'Not understood', status: 400, detail, next: 'Correct it and try again.' });
    }
    if (isCode(e, 'EACCES', 'EPERM', 'EROFS')) {
      return problem({ type: 'about:blank', title: 'Not allowed', status: 422, detail: messageOf(e), next: 'Check the permissions of the folder, or whether its volume is read only.' });
    }
    if (isCode(e, 'ENOSPC')) return problem({ type: 'about:blank', title: 'Full', status: 422, detail: messageOf(e), next: 'Make room on the volume, then try again.' });
    console.error(e);
    return problem({ type: 'about:blank', title: 'Unexpected', status: 500, detail: messageOf(e), next: 'Nothing more is known. The server printed the details.' });
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
