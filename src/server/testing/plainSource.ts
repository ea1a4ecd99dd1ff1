import { rate } from '../../core/platform/timecode/rate';
import { NO_TAGS, type ProxySource } from '../../core/proxies/source';

/** What a proxy is made of: ten frames at 25 a second, of which nothing else is stated. */
export const plainSource: ProxySource = {
  matrix: 'smpte170m',
  pixelAspect: 1,
  rotation: 0,
  scan: 'progressive',
  varies: false,
  rate: rate(25),
  frames: 10,
  start: null,
  audio: [],
  colour: { range: null, primaries: null, transfer: null, matrix: null },
  tags: NO_TAGS,
};
