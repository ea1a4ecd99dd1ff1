import { scaleMatrix } from '../platform/matrix';
import { fps } from '../platform/timecode/rate';
import { formatTimecode } from '../platform/timecode/timecode';
import { fitted, type Recipe } from './recipe';
import { isInterlaced, isRgb, type ProxySource, rangeOf, streamsOf } from './source';

/** Ticks a second of a file whose frames come at uneven times. */
const FINE = 90_000;

/** Files that FFmpeg finds in the folder it runs in: the look as a table, the name as text, and the face that is written in. */
export interface Beside {
  /** A `.cube` file, of one dimension or three, and whether it only grades: then the colour stays what it was, else it becomes that of BT.709. */
  look: { file: string; kind: '1D' | '3D'; graded: boolean } | null;
  name: string | null;
  face: string | null;
}
export const NOTHING_BESIDE: Beside = { look: null, name: null, face: null };

/** FFmpeg's options of each codec, and the form of its pixels. */
function coded({ video }: Recipe): { args: string[]; pixels: string } {
  switch (video.codec) {
    case 'h264':
      return {
        args: [
          ...['-c:v', 'libx264', '-preset', 'veryfast', '-profile:v', 'high'],
          ...(video.bitRate === null
            ? ['-crf', String(video.quality)]
            : [
                '-b:v',
                String(video.bitRate),
                '-maxrate',
                String(2 * video.bitRate),
                '-bufsize',
                String(2 * video.bitRate),
              ]),
        ],
        pixels: 'yuv420p',
      };
    case 'prores':
      return {
        args: ['-c:v', 'prores_ks', '-profile:v', video.grade === 'high' ? 'hq' : video.grade],
        pixels: 'yuv422p10le',
      };
    case 'vc3':
      return {
        args: [
          '-c:v',
          'dnxhd',
          '-profile:v',
          { low: 'dnxhr_lb', standard: 'dnxhr_sq', high: 'dnxhr_hq', high10: 'dnxhr_hqx' }[video.grade],
        ],
        pixels: video.grade === 'high10' ? 'yuv422p10le' : 'yuv422p',
      };
    case 'mjpeg':
      return { args: ['-c:v', 'mjpeg', '-q:v', String(video.quality)], pixels: 'yuvj422p' };
    case 'copy':
      return { args: ['-c:v', 'copy'], pixels: '' };
  }
}

/**
 * FFmpeg's filter that leaves out what is shown before a frame (seconds): what is up to half a frame before it stays, so that rounding of the
 * container's clock cannot give the one after it.
 */
export const fromFrame = (shown: number, { rate }: Pick<ProxySource, 'rate'>): string =>
  `trim=start=${(shown - 0.5 / fps(rate)).toFixed(6)}`;

/** The matrix of what is made, by H.273's name; `null` where it is that of an original which states none. */
export const matrixMade = (source: ProxySource, { look }: Beside): string | null =>
  isRgb(source) || (look !== null && !look.graded) ? 'bt709' : source.colour.matrix;

/** The way of the picture through FFmpeg's filters, and the colour it has in the end. */
function pictured(recipe: Recipe, source: ProxySource, beside: Beside, begins: number | null) {
  const { pixelAspect: aspect, colour } = source;
  const rgb = isRgb(source);
  const from = colour.range === 'full' && !rgb ? 'full' : 'limited';
  const range = rangeOf(recipe) ?? from;
  const { look } = beside;
  const converted = look !== null && !look.graded;
  const matrix = matrixMade(source, beside);
  const kept = isInterlaced(source) && recipe.interlaced === 'kept';
  const bwdif = 'bwdif=mode=send_frame';
  const fields =
    source.scan === 'progressive' || kept
      ? []
      : source.scan === null
        ? [`${bwdif}:deint=interlaced`]
        : [`${bwdif}:parity=${source.scan === 'top' ? 'tff' : 'bff'}:deint=all`];
  const levels = rgb ? `out_color_matrix=bt709:out_range=${range}` : `in_range=${from}:out_range=${range}`;
  const scale = `scale=${fitted(recipe.size, recipe.pixels)}:flags=bicubic`;
  const [sized, ...looked] =
    look === null
      ? [`${scale}:${levels}${kept ? ':interl=1' : ''}`]
      : [
          `${scale}${rgb ? '' : `:in_range=${from}:in_color_matrix=${source.matrix}`}`,
          'format=gbrp16le',
          look.kind === '3D' ? `lut3d=file=${look.file}:interp=tetrahedral` : `lut1d=file=${look.file}`,
          `scale=out_color_matrix=${matrix === null ? source.matrix : scaleMatrix(matrix)}:out_range=${range}`,
        ];
  return {
    sized: [
      ...(begins === null
        ? []
        : [fromFrame(begins, source), `trim=end_frame=${source.frames}`, 'setpts=PTS-STARTPTS']),
      ...fields,
      ...(aspect === null ? [] : [`setsar=${source.rotation % 180 === 0 ? aspect : 1 / aspect}`]),
      sized,
    ].join(','),
    rest: [
      ...looked,
      ...(recipe.pixels === 'square' ? ['setsar=1'] : []),
      ...written(recipe, source, beside),
      `format=${coded(recipe).pixels}`,
    ].join(','),
    colour: {
      range,
      primaries: converted ? 'bt709' : colour.primaries,
      transfer: converted ? 'bt709' : colour.transfer,
      matrix,
    },
    kept,
  };
}

/** One way of the picture to its size, and from there several, each to a name. */
const ways = (sized: string, to: readonly (readonly [way: string, name: string])[]): string =>
  [
    `[0:v:0]${sized},split=${to.length}${to.map((_, i) => `[w${i}]`).join('')}`,
    ...to.map(([way, name], i) => `[w${i}]${way}[${name}]`),
  ].join(';');

/** Filters that look at the pictures of a clip, as large as a recipe would make them, of which nothing is made. */
export function lookArguments(recipe: Recipe, source: ProxySource, branches: readonly string[]): string[] {
  const { sized } = pictured(recipe, source, NOTHING_BESIDE, null);
  return [
    '-filter_complex',
    ways(
      sized,
      branches.map((way, i) => [way, `b${i}`]),
    ),
  ];
}

/** Name and timecode, written into the picture's foot. */
function written({ burn }: Recipe, { start, rate }: ProxySource, { name, face }: Beside): string[] {
  if (face === null) return [];
  const looks = `fontfile=${face}:fontsize=h/18:fontcolor=white:box=1:boxcolor=black@0.6:boxborderw=6:y=h-th-h/24`;
  return [
    ...(burn.name && name !== null ? [`drawtext=${looks}:x=w/40:textfile=${name}:expansion=none`] : []),
    ...(burn.timecode && start !== null
      ? [
          `drawtext=${looks}:x=w-tw-w/40:timecode='${formatTimecode(start).replaceAll(':', '\\:')}':timecode_rate=${rate.num}/${rate.den}`,
        ]
      : []),
  ];
}

/** What the file says of itself. */
function tagged({ container }: Recipe, { tags }: ProxySource): string[] {
  const own: [string, string | null][] = [
    ['title', tags.clip],
    ['make', tags.maker],
    ['model', tags.model],
    ['creation_time', tags.recorded],
  ];
  return [
    ...own.flatMap(([key, value]) => (value === null ? [] : ['-metadata', `${key}=${value}`])),
    ...(tags.reel === null ? [] : ['-metadata:s:v:0', `reel_name=${tags.reel}`]),
    // In MOV it goes with the timecode track by itself.
    ...(tags.reel === null || container === 'mov' ? [] : ['-metadata', `reel_name=${tags.reel}`]),
  ];
}

/** The end of the arguments: timecode, tags and container. */
function contained(recipe: Recipe, source: ProxySource): string[] {
  const timecode = source.start ? ['-timecode', formatTimecode(source.start)] : [];
  const own =
    recipe.container === 'mxf'
      ? []
      : [
          ...[
            '-write_tmcd',
            source.start ? '1' : '0',
            '-movflags',
            `+faststart${recipe.container === 'mp4' ? '+use_metadata_tags' : ''}`,
          ],
          // FFmpeg takes 10-bit 4:2:2 H.264 for an intra codec without its parameter sets otherwise, which does not decode.
          ...['-strict', 'unofficial'],
        ];
  return [...tagged(recipe, source), ...timecode, ...own, '-f', recipe.container];
}

/**
 * FFmpeg's arguments for what a recipe makes, input and output left out. Every frame is kept as it is (`keepFrames`: FFmpeg's own option
 * to drop and double none, which has two names), colour tags and range are carried across (RGB becomes limited Y′CbCr by BT.709), and the
 * start timecode goes into a timecode track. FFmpeg turns the picture as it is to be shown before it comes to these filters. `branches` are filters
 * that the picture goes through besides, once it has its size: their outputs are called `[b0]`, `[b1]` and so on. `begins`: when
 * the first frame is shown, in seconds, of a source that is a part; what is before it and after its end is left out.
 */
export function recipeArguments(
  recipe: Recipe,
  source: ProxySource,
  keepFrames: readonly string[],
  beside: Beside = NOTHING_BESIDE,
  branches: readonly string[] = [],
  begins: number | null = null,
): string[] {
  const none = ['-map_metadata', '-1', '-map_chapters', '-1'];
  if (recipe.video.codec === 'copy')
    return [
      ...['-map', '0:v:0', ...none],
      ...source.audio.flatMap((streams, file) => streams.flatMap((_, i) => ['-map', `${file}:a:${i}`])),
      ...['-c', 'copy'],
      ...contained(recipe, source),
    ];
  const { sized, rest, colour, kept } = pictured(recipe, source, beside, begins);
  const { rate } = source;
  const fields = {
    h264: ['-flags', '+ilme+ildct', '-x264opts', source.scan === 'top' ? 'tff=1' : 'bff=1'],
    prores: ['-flags', '+ilme+ildct', '-field_order', source.scan === 'top' ? 'tt' : 'bb'],
  };
  const args = [
    ...(branches.length === 0
      ? ['-map', '0:v:0', '-vf', `${sized},${rest}`]
      : [
          '-filter_complex',
          ways(sized, [[rest, 'made'], ...branches.map((way, i) => [way, `b${i}`] as const)]),
          ...['-map', '[made]'],
        ]),
    ...none,
    ...keepFrames,
    ...['-enc_time_base', source.varies ? `1/${FINE}` : `${rate.den}/${rate.num}`],
    ...coded(recipe).args,
    ...(kept ? fields[recipe.video.codec as keyof typeof fields] : []),
    ...(recipe.video.codec === 'h264'
      ? ['-g', String(Math.max(1, Math.round(rate.num / rate.den / 2)))]
      : []),
    ...['-color_range', colour.range === 'full' ? 'pc' : 'tv'],
    ...(colour.primaries ? ['-color_primaries', colour.primaries] : []),
    ...(colour.transfer ? ['-color_trc', colour.transfer] : []),
    ...(colour.matrix ? ['-colorspace', colour.matrix] : []),
    ...(recipe.container === 'mxf'
      ? []
      : ['-video_track_timescale', String(source.varies ? FINE : rate.num * (rate.num < 1000 ? 1000 : 1))]),
  ];
  // What begins later than the picture stays so much later.
  const heard =
    begins === null
      ? ''
      : `atrim=start=${begins.toFixed(6)}:end=${(begins + source.frames / fps(rate)).toFixed(6)},asetpts=PTS-${begins.toFixed(6)}/TB,`;
  streamsOf(recipe, source).forEach(({ file, stream, from, layout }, out) => {
    // Channel by channel: a layout that is another by name must not be mixed into this one.
    const pan = [layout, ...from.map((channel, to) => `c${to}=c${channel}`)].join('|');
    args.push('-map', `${file}:a:${stream}`, `-filter:a:${out}`, `${heard}pan=${pan}`);
    if (recipe.audio.codec === 'aac')
      args.push(`-c:a:${out}`, 'aac', `-b:a:${out}`, String(recipe.audio.bitRate * from.length));
    else
      args.push(`-c:a:${out}`, 'pcm_s24le', ...(recipe.container === 'mxf' ? [`-ar:a:${out}`, '48000'] : []));
  });
  return [...args, ...contained(recipe, source)];
}

/** What FFmpeg must have to make what a recipe says: encoders and filters by its names. */
export function neededOf({ video, audio, look, burn }: Recipe): { encoders: string[]; filters: string[] } {
  const picture = { h264: 'libx264', prores: 'prores_ks', vc3: 'dnxhd', mjpeg: 'mjpeg', copy: null }[
    video.codec
  ];
  const sound = { aac: 'aac', pcm: 'pcm_s24le', copy: null, none: null }[audio.codec];
  return {
    encoders: [picture, sound].filter((e) => e !== null),
    filters: [
      ...(video.codec === 'copy' ? [] : ['scale', 'bwdif']),
      ...(look ? ['lut3d', 'lut1d'] : []),
      ...(burn.name || burn.timecode ? ['drawtext'] : []),
    ],
  };
}
