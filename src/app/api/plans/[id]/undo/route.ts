import { undoPlan } from '../../../../../server/usecases/applyPlan';
import { answer } from '../../../answer';

export const POST = (_: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> => answer(async (r) => undoPlan(r, (await params).id));
