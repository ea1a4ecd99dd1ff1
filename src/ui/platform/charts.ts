import { BarController, BarElement, CategoryScale, Chart, Legend, LinearScale, Tooltip } from 'chart.js';

Chart.defaults.font.family = '"Atkinson Hyperlegible Next", sans-serif';
Chart.register(BarController, BarElement, CategoryScale, LinearScale, Tooltip, Legend);

/** Fills that differ in lightness and pattern of use, not in hue alone; taken from the room's colours. */
export const FILLS = ['harbour', 'ochre', 'moss', 'board', 'brick', 'soft'] as const;

/** A colour of the theme as the canvas takes it. */
export const colourOf = (name: string): string =>
  typeof document === 'undefined'
    ? '#2C5872'
    : getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();

export const clockTick = (s: number): string =>
  `${String(Math.floor(s / 3600) % 24).padStart(2, '0')}:${String(Math.floor(s / 60) % 60).padStart(2, '0')}`;

/** What all our charts share: no motion, the size of their box. */
export const shared = () => ({
  animation: false as const,
  responsive: true,
  maintainAspectRatio: false,
});
export const axis = (more: Record<string, unknown> = {}) => ({
  ticks: { color: colourOf('soft'), ...(more.ticks as object | undefined) },
  grid: { color: colourOf('rule'), display: more.grid !== false },
});
