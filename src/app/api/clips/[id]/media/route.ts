import { z } from 'zod';
import { clipFile } from '../../../../../server/cards';
import { answer } from '../../../answer';
import { fileResponse } from '../../../fileResponse';

const Which = z.enum(['original', 'proxy']);

/** The file itself, for the browser's player. */
export const GET = (request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> =>
  answer(async (r) => {
    const which = Which.parse(new URL(request.url).searchParams.get('which') ?? 'original');
    const file = await clipFile(r, (await params).id, which);
    return fileResponse(request, file, /\.(?:wav|bwf)$/i.test(file) ? 'audio/wav' : 'video/mp4');
  });
