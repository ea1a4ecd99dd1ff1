'use client';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import type { ReactNode } from 'react';
import { madeExample, type Recipe } from '../../core/proxies/recipe';
import styles from './proxies.module.css';

type Codec = Recipe['video']['codec'];

/** What a picture is coded as at first, once its codec was chosen. */
const FIRST: Record<Codec, Recipe['video']> = {
  h264: { codec: 'h264', quality: 23, bitRate: null },
  prores: { codec: 'prores', grade: 'proxy' },
  vc3: { codec: 'vc3', grade: 'low' },
  mjpeg: { codec: 'mjpeg', quality: 4 },
  copy: { codec: 'copy' },
};
const CODECS: readonly (readonly [Codec, string])[] = [
  ['h264', 'H.264'],
  ['prores', 'ProRes'],
  ['vc3', 'VC-3'],
  ['mjpeg', 'Motion JPEG'],
  ['copy', 'as it is (rewrap)'],
];
const GRADES = {
  prores: [
    ['proxy', 'proxy'],
    ['lt', 'LT'],
    ['standard', 'standard quality'],
    ['high', 'high quality'],
  ],
  vc3: [
    ['low', 'low bandwidth'],
    ['standard', 'standard quality'],
    ['high', 'high quality'],
    ['high10', 'high quality, 10 bit'],
  ],
} as const;

/** With a codec come the container and sound that go with it, where those that were chosen do not. */
function withCodec(recipe: Recipe, codec: Codec): Recipe {
  const container =
    codec === 'h264'
      ? 'mp4'
      : codec === 'copy'
        ? 'mov'
        : recipe.container === 'mp4'
          ? 'mov'
          : recipe.container;
  const next: Recipe = {
    ...recipe,
    video: FIRST[codec],
    container: codec === 'mjpeg' ? 'mov' : container,
    purpose: codec === 'copy' ? 'rewrap' : recipe.purpose === 'rewrap' ? 'transcode' : recipe.purpose,
    audio: {
      ...recipe.audio,
      codec: codec === 'h264' ? 'aac' : codec === 'copy' ? 'copy' : 'pcm',
      channels: codec === 'copy' ? null : recipe.audio.channels,
    },
  };
  if (codec !== 'copy')
    return { ...next, interlaced: codec === 'vc3' || codec === 'mjpeg' ? 'deinterlaced' : next.interlaced };
  return {
    ...next,
    size: { fit: 'same' },
    look: false,
    burn: { name: false, timecode: false },
    interlaced: 'kept',
    pixels: 'kept',
  };
}

function Choose<V extends string>({
  label,
  value,
  options,
  set,
}: {
  label: string;
  value: V;
  options: readonly (readonly [V, string])[];
  set: (v: V) => void;
}) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      onChange={(e) => set(options.find(([v]) => v === e.target.value)![0])}
    >
      {options.map(([v, words]) => (
        <MenuItem key={v} value={v}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}

const Numbered = ({
  label,
  value,
  set,
  least,
  most,
}: {
  label: string;
  value: number;
  set: (n: number) => void;
  least: number;
  most: number;
}) => (
  <TextField
    type="number"
    size="small"
    label={label}
    value={value}
    onChange={(e) => {
      const n = Number(e.target.value);
      if (Number.isFinite(n) && n >= least && n <= most) set(Math.round(n));
    }}
    slotProps={{ htmlInput: { min: least, max: most } }}
  />
);

const Tick = ({ on, set, children }: { on: boolean; set: (on: boolean) => void; children: ReactNode }) => (
  <label>
    <input type="checkbox" checked={on} onChange={() => set(!on)} /> {children}
  </label>
);

/** All that can be set of a recipe. */
export function RecipeEditor({ recipe: r, set }: { recipe: Recipe; set: (recipe: Recipe) => void }) {
  const rewrap = r.video.codec === 'copy';
  return (
    <div className={styles.editor} role="group" aria-label="Recipe">
      <TextField
        size="small"
        label="Name of the recipe"
        value={r.name}
        onChange={(e) => set({ ...r, name: e.target.value.slice(0, 80) })}
        className={styles.wide}
      />
      <Choose
        label="Picture"
        value={r.video.codec}
        options={CODECS}
        set={(codec) => set(withCodec(r, codec))}
      />
      <Quality recipe={r} set={set} />
      <Choose
        label="Container"
        value={r.container}
        options={[
          ['mp4', 'MP4'],
          ['mov', 'MOV'],
          ['mxf', 'MXF'],
        ]}
        set={(container) =>
          set({
            ...r,
            container,
            audio: {
              ...r.audio,
              codec: rewrap || r.audio.codec === 'none' ? r.audio.codec : container === 'mp4' ? 'aac' : 'pcm',
            },
          })
        }
      />
      {!rewrap && (
        <Choose
          label="It is a"
          value={r.purpose}
          options={[
            ['proxy', 'proxy: stands in for the original'],
            ['transcode', 'transcode: a file beside it'],
          ]}
          set={(purpose) => set({ ...r, purpose })}
        />
      )}
      {!rewrap && <FrameSize recipe={r} set={set} />}
      <Sound recipe={r} set={set} />
      {!rewrap && <Further recipe={r} set={set} />}
      <Place recipe={r} set={set} />
      <p className={`soft ${styles.wide}`}>
        A clip named <span className="figures">SLW_D1_A001</span> gives{' '}
        <span className="figures">{madeExample('SLW_D1_A001', r)}</span>.
      </p>
    </div>
  );
}

/** Fields, pixels, look, and what is written into the picture. */
function Further({ recipe: r, set }: Part) {
  return (
    <>
      <Choose
        label="Fields"
        value={r.interlaced}
        options={[
          ['deinterlaced', 'deinterlaced'],
          ['kept', 'kept'],
        ]}
        set={(interlaced) => set({ ...r, interlaced })}
      />
      <Choose
        label="Pixels"
        value={r.pixels}
        options={[
          ['square', 'made square'],
          ['kept', 'as they are'],
        ]}
        set={(pixels) => set({ ...r, pixels })}
      />
      <div className={`${styles.wide} ${styles.ticked}`}>
        <Tick on={r.look} set={(look) => set({ ...r, look })}>
          the clip’s look applied
        </Tick>
        <Tick on={r.burn.name} set={(name) => set({ ...r, burn: { ...r.burn, name } })}>
          its name in the picture
        </Tick>
        <Tick on={r.burn.timecode} set={(timecode) => set({ ...r, burn: { ...r.burn, timecode } })}>
          its timecode in the picture
        </Tick>
      </div>
    </>
  );
}

interface Part {
  recipe: Recipe;
  set: (recipe: Recipe) => void;
}

function Quality({ recipe: r, set }: Part) {
  const { video } = r;
  if (video.codec === 'copy') return <span />;
  if (video.codec === 'prores')
    return (
      <Choose
        label="Grade"
        value={video.grade}
        options={GRADES.prores}
        set={(grade) => set({ ...r, video: { ...video, grade } })}
      />
    );
  if (video.codec === 'vc3')
    return (
      <Choose
        label="Grade"
        value={video.grade}
        options={GRADES.vc3}
        set={(grade) => set({ ...r, video: { ...video, grade } })}
      />
    );
  if (video.codec === 'mjpeg')
    return (
      <Numbered
        label="Quality, 2 (best) to 31"
        value={video.quality}
        least={2}
        most={31}
        set={(quality) => set({ ...r, video: { ...video, quality } })}
      />
    );
  return (
    <div className={styles.two}>
      <Choose
        label="Quality by"
        value={video.bitRate === null ? 'constant' : 'rate'}
        options={[
          ['constant', 'constant quality'],
          ['rate', 'bit rate'],
        ]}
        set={(by) => set({ ...r, video: { ...video, bitRate: by === 'rate' ? 4_000_000 : null } })}
      />
      {video.bitRate === null ? (
        <Numbered
          label="0 (best) to 51"
          value={video.quality}
          least={0}
          most={51}
          set={(quality) => set({ ...r, video: { ...video, quality } })}
        />
      ) : (
        <Numbered
          label="kbit/s"
          value={video.bitRate / 1000}
          least={50}
          most={400_000}
          set={(kbit) => set({ ...r, video: { ...video, bitRate: kbit * 1000 } })}
        />
      )}
    </div>
  );
}

function FrameSize({ recipe: r, set }: Part) {
  const { size } = r;
  return (
    <div className={`${styles.two} ${styles.wide}`}>
      <Choose
        label="Frame size"
        value={size.fit}
        options={[
          ['same', 'the same'],
          ['half', 'half as wide and high'],
          ['quarter', 'a quarter as wide and high'],
          ['box', 'to fit in'],
        ]}
        set={(fit) => set({ ...r, size: fit === 'box' ? { fit, width: 1280, height: 720 } : { fit } })}
      />
      {size.fit === 'box' && (
        <>
          <Numbered
            label="Width"
            value={size.width}
            least={16}
            most={16_384}
            set={(width) => set({ ...r, size: { ...size, width } })}
          />
          <Numbered
            label="Height"
            value={size.height}
            least={16}
            most={16_384}
            set={(height) => set({ ...r, size: { ...size, height } })}
          />
        </>
      )}
    </div>
  );
}

function Sound({ recipe: r, set }: Part) {
  if (r.audio.codec === 'copy') return <span className="soft">Sound as it is, all channels</span>;
  const channels = r.audio.channels?.join(', ') ?? '';
  return (
    <div className={`${styles.two} ${styles.wide}`}>
      <Choose
        label="Sound"
        value={r.audio.codec}
        options={[
          ['aac', 'AAC'],
          ['pcm', 'not compressed'],
          ['none', 'none'],
        ]}
        set={(codec) => set({ ...r, audio: { ...r.audio, codec } })}
      />
      {r.audio.codec !== 'none' && (
        <TextField
          size="small"
          label="Channels"
          placeholder="all"
          defaultValue={channels}
          key={r.name}
          onChange={(e) => {
            const numbers = [...new Set(e.target.value.split(/[\s,]+/u).map(Number))].filter(
              (n) => Number.isInteger(n) && n >= 1 && n <= 256,
            );
            set({ ...r, audio: { ...r.audio, channels: numbers.length > 0 ? numbers.slice(0, 64) : null } });
          }}
          slotProps={{ inputLabel: { shrink: true } }}
        />
      )}
    </div>
  );
}

function Place({ recipe: r, set }: Part) {
  return (
    <>
      <TextField
        size="small"
        label="Words after its name"
        value={r.words}
        placeholder="none"
        onChange={(e) => set({ ...r, words: e.target.value.replace(/[/\\:*?"<>|]/gu, '').slice(0, 60) })}
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <div className={styles.two}>
        <Choose
          label="Place"
          value={r.place.at}
          options={[
            ['tree', 'among the proxies, in its original’s folder'],
            ['folder', 'among the proxies, all in one folder'],
            ['beside', 'beside its original'],
          ]}
          set={(at) => set({ ...r, place: at === 'folder' ? { at, folder: 'Made' } : { at } })}
        />
        {r.place.at === 'folder' && (
          <TextField
            size="small"
            label="Folder"
            value={r.place.folder}
            onChange={(e) =>
              set({
                ...r,
                place: {
                  at: 'folder',
                  folder: e.target.value.replace(/[/\\:*?"<>|]/gu, '').slice(0, 60) || 'Made',
                },
              })
            }
          />
        )}
      </div>
    </>
  );
}
