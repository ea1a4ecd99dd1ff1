import { JournalUndo } from '../../../../core/naming';
import { journalChanges, undoFromJournal } from '../../../../server/naming';
import { answer, answerTo } from '../../answer';

export const dynamic = 'force-dynamic';

/** Changes of names that only the journal beside the footage knows. */
export const GET = (): Promise<Response> => answer(journalChanges);
/** Takes one of them back. */
export const POST = (request: Request): Promise<Response> =>
  answerTo(request, JournalUndo, (runtime, { plan }) => undoFromJournal(runtime, plan));
