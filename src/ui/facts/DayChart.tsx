'use client';
import { Bar } from 'react-chartjs-2';
import { useColorScheme } from '@mui/material/styles';
import { axis, clockTick, colourOf, shared } from '../platform/charts';

/** A bar of a day: which lane, from and to in seconds of the day, and how it is drawn. */
export interface DayBar {
  clip: string;
  name: string;
  lane: string;
  from: number;
  to: number;
  kind: 'clock' | 'timecode' | 'moved';
}

const WORDS = {
  clock: 'by the clock',
  timecode: 'by the timecode',
  moved: 'with the clock put right',
} as const;
const FILL = { clock: 'harbour', timecode: 'ochre', moved: 'moss' } as const;

/** When each camera rolled through a day. Bars that would be too thin to see keep a width one can point at. Choosing one opens its clip. */
export function DayChart({
  bars,
  lanes,
  open,
  label,
}: {
  bars: readonly DayBar[];
  lanes: readonly string[];
  open: (clip: string) => void;
  label: string;
}) {
  const { mode } = useColorScheme();
  const from = Math.min(...bars.map((b) => b.from));
  const to = Math.max(...bars.map((b) => b.to));
  const pad = Math.max(600, (to - from) * 0.03);
  const step = to - from > 8 * 3600 ? 7200 : to - from > 3 * 3600 ? 3600 : 1800;
  const thin = (to - from + 2 * pad) / 220;
  const kinds = (['clock', 'timecode', 'moved'] as const).filter((k) => bars.some((b) => b.kind === k));
  const datasets = kinds.map((kind) => ({
    label: WORDS[kind],
    backgroundColor: colourOf(FILL[kind]),
    borderColor: colourOf(FILL[kind]),
    borderWidth: kind === 'timecode' ? 0 : 1,
    barPercentage: 0.8,
    categoryPercentage: 0.8,
    grouped: kinds.includes('timecode'),
    data: bars
      .filter((b) => b.kind === kind)
      .map((b) => ({ x: [b.from, Math.max(b.to, b.from + thin)] as [number, number], y: b.lane, bar: b })),
  }));
  return (
    <div style={{ height: 56 + lanes.length * (kinds.includes('timecode') ? 46 : 30) }}>
      <Bar
        aria-label={label}
        key={mode}
        data={{ labels: [...lanes], datasets: datasets as never }}
        options={{
          ...shared(),
          indexAxis: 'y',
          onClick: (_, [hit]) => {
            if (hit) {
              const d = datasets[hit.datasetIndex]?.data[hit.index];
              if (d) open(d.bar.clip);
            }
          },
          onHover: (e, hits) => {
            (e.native?.target as HTMLElement | null)?.style.setProperty(
              'cursor',
              hits.length > 0 ? 'pointer' : 'default',
            );
          },
          plugins: {
            legend: {
              display: kinds.length > 1,
              position: 'top',
              align: 'end',
              labels: { boxWidth: 14, boxHeight: 10, color: colourOf('ink') },
            },
            tooltip: {
              callbacks: {
                title: () => '',
                label: (item) => {
                  const b = (item.raw as { bar: DayBar }).bar;
                  return `${b.name}  ${new Date(b.from * 1000).toISOString().slice(11, 19)} ${WORDS[b.kind]}`;
                },
              },
            },
          },
          scales: {
            x: {
              ...axis(),
              min: Math.floor((from - pad) / step) * step,
              max: Math.ceil((to + pad) / step) * step,
              ticks: { color: colourOf('soft'), stepSize: step, callback: (v) => clockTick(Number(v)) },
            },
            y: axis({
              grid: false,
              ticks: {
                color: colourOf('ink'),
                font: { family: '"JetBrains Mono", monospace', size: 13, weight: 'bold' },
              },
            }),
          },
        }}
      />
    </div>
  );
}
