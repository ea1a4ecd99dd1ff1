import { Form } from '../../../../core/handover';
import { formsView, keepForm } from '../../../../server/handover';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> => answer(formsView);
export const POST = (request: Request): Promise<Response> => answerTo(request, Form, keepForm);
