'use client';
import { CategoryScale, Chart, Filler, LinearScale, LineElement, PointElement } from 'chart.js';
import { Line } from 'react-chartjs-2';
import { useColorScheme } from '@mui/material/styles';
import { formatBytes } from '../platform/format';

Chart.register(LineElement, PointElement, LinearScale, CategoryScale, Filler);

/** Bytes a second over the last minutes, the newest at the right. */
export function RateChart({ rates }: { rates: readonly number[] }) {
  const { mode } = useColorScheme();
  const colour = (name: string): string =>
    typeof document === 'undefined'
      ? '#2C5872'
      : getComputedStyle(document.documentElement).getPropertyValue(`--${name}`).trim();
  const shown = rates.slice(-180);
  return (
    <div style={{ height: 130 }}>
      <Line
        aria-label={`Rate: ${shown.length > 0 ? `${formatBytes(shown.at(-1)!)} a second now` : 'nothing measured yet'}`}
        key={mode}
        data={{
          labels: shown.map((_, i) => i - shown.length + 1),
          datasets: [
            {
              data: [...shown],
              borderColor: colour('harbour'),
              backgroundColor: `${colour('harbour')}22`,
              fill: true,
              borderWidth: 2,
              pointRadius: 0,
              tension: 0.2,
            },
          ],
        }}
        options={{
          animation: false,
          responsive: true,
          maintainAspectRatio: false,
          plugins: { legend: { display: false }, tooltip: { enabled: false } },
          scales: {
            x: {
              ticks: {
                maxTicksLimit: 5,
                color: colour('soft'),
                callback: (_, i) => (i === shown.length - 1 ? 'now' : `${shown.length - 1 - i} s ago`),
              },
              grid: { display: false },
            },
            y: {
              beginAtZero: true,
              ticks: {
                maxTicksLimit: 4,
                color: colour('soft'),
                callback: (v) => `${formatBytes(Number(v))}/s`,
              },
              grid: { color: colour('rule') },
            },
          },
        }}
      />
    </div>
  );
}
