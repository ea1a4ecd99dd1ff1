import type { WorkKind } from '../../core/shapes';
import { makeFilmstrip } from '../usecases/makeFilmstrip';
import { makeOneProxy } from '../usecases/makeProxies';
import { readClip, readClipRest } from '../usecases/readClip';
import type { Handler } from './queue';

export const HANDLERS: Record<WorkKind, Handler> = { read: readClip, rest: readClipRest, filmstrip: makeFilmstrip, proxy: makeOneProxy };
