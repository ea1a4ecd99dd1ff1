import { rate } from '../../src/core/platform/timecode/rate';
import { NO_TAGS } from '../../src/core/proxies/source';
import { writeFilmstrip } from '../../src/server/analysis';
import { frameAsJpeg } from '../../src/server/viewing/frames';
import { preview } from '../../src/server/viewing/preview';
import { probe } from '../../src/server/platform/media/probe';
import { makeImages } from '../../src/server/proxies/images';
import { readStatements } from '../../src/server/reading/readFamily';
import { endReaders } from '../../src/server/reading/readPool';
import { endTagReader, readTags } from '../../src/server/reading/tagReader';

// Has every reader and program read each of the files it is told, one after another, and says how each fared. Traced from outside.

const short = process.argv[2] === 'short';
const files = process.argv.slice(short ? 3 : 2);
const images = {
  source: {
    ...{
      matrix: 'smpte170m',
      pixelAspect: null,
      rotation: 0,
      scan: null,
      rate: rate(25),
      varies: false,
      frames: 10,
    },
    ...{ start: null, audio: [], tags: NO_TAGS },
    colour: { range: null, primaries: null, transfer: null, matrix: null },
  },
  ...{ width: 64, height: 36, kind: 'dpx10' as const, bytes: 0 },
  about: () => ({
    ...{ name: '', source: '', timecode: null, rate: rate(25) },
    ...{ interlaced: false, transfer: null, primaries: null },
  }),
};
const words = (e: unknown): string => (e instanceof Error ? e.message.split('\n')[0]! : String(e));
for (const file of files) {
  const kind = /\.wav$/i.test(file)
    ? ('sound' as const)
    : /\.(?:jpg|png|tif|heic|exr|dpx|dng)$/i.test(file)
      ? ('still' as const)
      : ('video' as const);
  const took = performance.now();
  const said: string[] = [];
  await readStatements(
    { kind, files: [{ role: 'original', file, size: 1000, modified: 0 }] },
    { zoneMinutes: 0, stillsRate: 25 },
  ).then(
    (r) => said.push(r.fault ?? 'read'),
    (e: unknown) => said.push(`crash: ${words(e)}`),
  );
  for (const work of [
    () => probe(file),
    () => frameAsJpeg(file, 0, { rate: rate(25) }, 64),
    () => readTags(file),
    ...(short
      ? []
      : [
          () => writeFilmstrip(file, { frames: 10, rate: rate(25) }, `${file}.strip.jpg`),
          () => makeImages(file, { from: 0, to: 1 }, images, `${file}.images`, new AbortController().signal),
        ]),
  ])
    await work().then(
      () => said.push('done'),
      (e: unknown) => said.push(words(e)),
    );
  if (!short) {
    const played = await preview(file, 'auto').catch((e: unknown) => words(e));
    if (typeof played === 'string') said.push(played);
    else {
      await played.next();
      played.close();
    }
  }
  console.log(JSON.stringify({ file, seconds: (performance.now() - took) / 1000, said }));
}
await Promise.all([endReaders(), endTagReader()]);
process.exit(0);
