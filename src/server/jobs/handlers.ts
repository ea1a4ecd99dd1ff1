import type { WorkKind } from '../../core/shapes';
import { makeFilmstrip } from '../usecases/makeFilmstrip';
import { makeOneProxy } from '../usecases/makeProxies';
import { readClip } from '../usecases/readClip';
import type { Handler } from './queue';

export const HANDLERS: Record<WorkKind, Handler> = { read: readClip, filmstrip: makeFilmstrip, proxy: makeOneProxy };
