import { version } from '../../../../server/platform/version';
import type { Health } from '../../../../core/platform/shapes';
import { answer } from '../../answer';

export const dynamic = 'force-dynamic';

export const GET = (): Promise<Response> =>
  answer(async (r): Promise<Health> => ({
    ready: true,
    version,
    ffmpeg: r.ffmpeg,
    database: r.database.version,
  }));
