import { createCanvas, GlobalFonts, type SKRSContext2D } from '@napi-rs/canvas';
import { createRequire } from 'node:module';
import path from 'node:path';
import { randomFrom } from '../../core/platform/random';
import { formatRate, fps } from '../../core/platform/timecode/rate';
import { addFrames, formatTimecode } from '../../core/platform/timecode/timecode';
import type { DemoClip } from './scenario';

/** Size of the bitmap a picture is drawn to; FFmpeg enlarges it to the clip's frame. Pixels. */
export const DRAWN = { width: 640, height: 360 } as const;

/** Size of the space the picture is laid out in; the bitmap is a scaled view of it. */
const SPACE = { width: 1280, height: 720 } as const;

const FACE = 'Burnt-in';
let registered = false;

function registerFace(): void {
  if (registered) return;
  const folder = path.dirname(
    createRequire(import.meta.url).resolve('@fontsource/jetbrains-mono/package.json'),
  );
  if (!GlobalFonts.registerFromPath(path.join(folder, 'files/jetbrains-mono-latin-700-normal.woff2'), FACE)) {
    throw new Error('the typeface for the burnt-in timecode could not be read: run npm ci');
  }
  registered = true;
}

const seedOf = (text: string): number =>
  [...text].reduce((h, ch) => Math.imul(h ^ ch.charCodeAt(0), 16777619), 2166136261);

type Colour = readonly [number, number, number];
const mix = (a: Colour, b: Colour, t: number): string =>
  `rgb(${a.map((v, i) => Math.round(v + (b[i]! - v) * t)).join(',')})`;

/** Sky from top to horizon at an hour of the day, and how much daylight there is (0 night to 1 noon). */
function sky(hour: number): { top: string; low: string; light: number } {
  const light = Math.max(0, Math.min(1, 1.25 - Math.abs(hour - 13) / 6.5));
  const warm = Math.max(0, 1 - Math.abs(light - 0.35) / 0.35);
  return {
    top: mix([26, 36, 66], [118, 165, 196], light),
    low: mix(mixed([74, 66, 92], [232, 220, 190], light), [236, 158, 104], warm * 0.7),
    light,
  };
}
const mixed = (a: Colour, b: Colour, t: number): Colour => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
];

/**
 * Draws the frames of a clip: the tide mill, its wheel turning, the water, the sky of its hour, and the clip's own
 * timecode burnt in. Returns RGBA bytes, width × height × 4, valid until the next call.
 */
export function painter(
  clip: Pick<DemoClip, 'name' | 'rate' | 'start'>,
  card: string,
): (frame: number) => Buffer {
  registerFace();
  const canvas = createCanvas(DRAWN.width, DRAWN.height);
  const g = canvas.getContext('2d');
  g.scale(DRAWN.width / SPACE.width, DRAWN.height / SPACE.height);
  const random = randomFrom(seedOf(card + clip.name));
  const hour = clip.start.frame / fps(clip.rate) / 3600;
  const view = {
    zoom: 0.8 + random() * 1.1,
    x: 0.3 + random() * 0.5,
    pan: (random() - 0.5) * 30,
    speed: 0.25 + random() * 0.5,
    tide: 480 + random() * 60,
  };
  const s = sky(hour);
  const still = createCanvas(DRAWN.width, DRAWN.height);
  const ground = still.getContext('2d');
  ground.scale(DRAWN.width / SPACE.width, DRAWN.height / SPACE.height);
  paintSky(ground, s, random);
  return (frame) => {
    const t = frame / fps(clip.rate);
    g.drawImage(still, 0, 0, SPACE.width, SPACE.height);
    const x = view.x * SPACE.width + view.pan * t;
    paintMill(g, x, view.tide, view.zoom, s.light, t * view.speed);
    paintWater(g, view.tide, t, s);
    paintLabel(
      g,
      formatTimecode(addFrames(clip.start, frame)),
      `${card}  ${clip.name}  ${formatRate(clip.rate)} fps`,
    );
    return canvas.data();
  };
}

function paintSky(g: SKRSContext2D, s: ReturnType<typeof sky>, random: () => number): void {
  const gradient = g.createLinearGradient(0, 0, 0, 520);
  gradient.addColorStop(0, s.top);
  gradient.addColorStop(1, s.low);
  g.fillStyle = gradient;
  g.fillRect(0, 0, SPACE.width, SPACE.height);
  for (let hill = 0; hill < 3; hill++) {
    g.fillStyle = mix(
      [24, 34, 34],
      [
        [150, 168, 150],
        [122, 146, 116],
        [98, 124, 88],
      ][hill] as unknown as Colour,
      0.2 + 0.8 * s.light,
    );
    const [base, high, wave, shift] = [
      400 + hill * 45,
      40 + random() * 60,
      180 + random() * 240,
      random() * 9,
    ];
    g.beginPath();
    g.moveTo(0, SPACE.height);
    for (let x = 0; x <= SPACE.width; x += 20) g.lineTo(x, base - high * Math.sin(x / wave + shift));
    g.lineTo(SPACE.width, SPACE.height);
    g.fill();
  }
}

function paintMill(
  g: SKRSContext2D,
  x: number,
  waterline: number,
  zoom: number,
  light: number,
  turn: number,
): void {
  g.save();
  g.translate(x, waterline);
  g.scale(zoom, zoom);
  const shade = (c: Colour) => mix([20, 20, 30], c, 0.3 + 0.7 * light);
  g.fillStyle = shade([200, 172, 132]);
  g.fillRect(20, -190, 240, 215);
  g.fillStyle = shade([150, 72, 52]);
  g.beginPath();
  g.moveTo(-10, -190);
  g.lineTo(140, -280);
  g.lineTo(290, -190);
  g.fill();
  g.fillStyle = light < 0.35 ? '#f3c86a' : shade([62, 78, 96]);
  for (const wx of [70, 170]) g.fillRect(wx, -145, 36, 50);
  g.translate(-30, -40);
  g.rotate(turn);
  g.strokeStyle = shade([84, 58, 46]);
  g.lineWidth = 10;
  g.beginPath();
  g.arc(0, 0, 105, 0, Math.PI * 2);
  g.stroke();
  g.lineWidth = 7;
  for (let i = 0; i < 12; i++) {
    g.rotate(Math.PI / 6);
    g.beginPath();
    g.moveTo(18, 0);
    g.lineTo(105, 0);
    g.stroke();
    g.fillStyle = shade([104, 74, 56]);
    g.fillRect(96, -14, 26, 28);
  }
  g.beginPath();
  g.arc(0, 0, 20, 0, Math.PI * 2);
  g.fill();
  g.restore();
}

function paintWater(g: SKRSContext2D, waterline: number, t: number, s: ReturnType<typeof sky>): void {
  for (let layer = 0; layer < 3; layer++) {
    g.fillStyle = mix(
      [14, 26, 44],
      [
        [74, 124, 142],
        [58, 106, 128],
        [44, 88, 112],
      ][layer] as unknown as Colour,
      0.25 + 0.75 * s.light,
    );
    g.beginPath();
    g.moveTo(0, SPACE.height);
    const top = waterline + layer * 55;
    for (let x = 0; x <= SPACE.width; x += 16)
      g.lineTo(x, top + 9 * Math.sin(x / (60 + layer * 35) + t * (1.6 - layer * 0.4) + layer));
    g.lineTo(SPACE.width, SPACE.height);
    g.fill();
  }
}

function paintLabel(g: SKRSContext2D, timecode: string, name: string): void {
  g.fillStyle = 'rgba(12,16,24,0.72)';
  g.fillRect(32, 624, 470, 68);
  g.fillStyle = '#fff';
  g.font = `40px "${FACE}"`;
  g.fillText(timecode, 48, 672);
  g.font = `22px "${FACE}"`;
  g.textAlign = 'right';
  g.fillStyle = 'rgba(12,16,24,0.72)';
  g.fillRect(SPACE.width - 400, 640, 368, 52);
  g.fillStyle = '#fff';
  g.fillText(name, SPACE.width - 48, 674);
  g.textAlign = 'left';
}
