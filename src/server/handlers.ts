import { makeFilmstrip } from './viewing/makeFilmstrip';
import { makeOneProxy } from './proxies/makeProxies';
import { readClips, readRestOfClips } from './facts/readClips';
import type { Handlers } from './platform/work/queue';

export const HANDLERS: Handlers = {
  read: { most: 24, run: readClips },
  rest: { most: 5, run: readRestOfClips },
  filmstrip: makeFilmstrip,
  proxy: makeOneProxy,
};
