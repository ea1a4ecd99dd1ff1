import { checkAgain } from '../../../../server/usecases/safeCopies';
import { answer } from '../../answer';

/** Checks a safe copy again; answers when it is through. */
export const POST = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> => answer(async (r) => checkAgain(r, (await params).id));
