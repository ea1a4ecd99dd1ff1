'use client';
import { useColorScheme } from '@mui/material/styles';
import { Bar } from 'react-chartjs-2';
import type { WorkView } from '../../core/platform/shapes';
import { axis, colourOf, shared } from '../platform/charts';

/** Pieces that are drawn. */
const LATEST = 40;

/** How fast the last pieces were made, the newest at the right: times real time. */
export function SpeedChart({ done }: { done: readonly WorkView[] }) {
  // Drawn anew where the colours change.
  const { colorScheme } = useColorScheme();
  const latest = done
    .filter((w) => w.speed !== null)
    .sort((a, b) => (a.endedAt ?? '').localeCompare(b.endedAt ?? ''))
    .slice(-LATEST);
  if (latest.length < 2) return null;
  const speeds = latest.map((w) => w.speed!);
  return (
    <Bar
      key={colorScheme}
      role="img"
      aria-label={`Times real time of the last ${latest.length} made: ${Math.min(...speeds).toFixed(1)} to ${Math.max(...speeds).toFixed(1)}`}
      data={{
        labels: latest.map((w) => w.clipName),
        datasets: [{ data: speeds, backgroundColor: colourOf('harbour'), maxBarThickness: 18 }],
      }}
      options={{
        ...shared(),
        plugins: {
          legend: { display: false },
          tooltip: {
            callbacks: {
              label: ({ raw, dataIndex }) =>
                `${(raw as number).toFixed(1)}× real time${latest[dataIndex]?.recipe ? `, ${latest[dataIndex].recipe}` : ''}`,
            },
          },
        },
        scales: {
          x: { display: false },
          y: {
            ...axis({ ticks: { maxTicksLimit: 3, callback: (v: number) => `${v}×` } }),
            beginAtZero: true,
          },
        },
      }}
    />
  );
}
