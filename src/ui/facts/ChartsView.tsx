'use client';
import { useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { Bar } from 'react-chartjs-2';
import { useColorScheme } from '@mui/material/styles';
import type { FieldId } from '../../core/facts/catalogue';
import type { ClocksView as Clocks, FactSums } from '../../core/facts/shapes';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatDay } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { axis, colourOf, FILLS, shared } from '../platform/charts';
import type { Behind } from './columns';
import { type DayBar, DayChart } from './DayChart';
import styles from './facts.module.css';

const dayWords = (d: number): string => `Day ${d}`;
const NONE: Clocks['rolls'] = [];

/** A day through by camera; running time and size by day; rates and codecs. Each opens the clips behind it. */
export function ChartsView({ show }: { show: (behind: Behind[]) => void }) {
  const server = useServer();
  const clocks = useQuery({ queryKey: ['clocks'], queryFn: server.clocks });
  const sums = useQuery({ queryKey: ['facts', 'sums'], queryFn: server.factSums });
  const placed = sums.data?.days ?? [];
  const days = [...new Set(placed.map((r) => r.day))];
  const [chosen, setDay] = useState<number | null>(null);
  const day = chosen ?? days[0] ?? 1;
  const failed = [clocks, sums].find((q) => q.error);
  if (failed)
    return (
      <div className={styles.body}>
        <ErrorNotice error={failed.error} again={() => void failed.refetch()} />
      </div>
    );
  if (!sums.data) return null;
  if (placed.length === 0)
    return (
      <Empty title="Nothing to draw yet">
        <p className="soft">Bring in footage first.</p>
      </Empty>
    );
  const rolls = clocks.data?.rolls ?? NONE;
  const cameras = [...new Set(placed.map((r) => r.camera))].sort();
  const sum = (d: number, c: string, what: 'seconds' | 'bytes') =>
    placed.find((r) => r.day === d && r.camera === c)?.[what] ?? 0;
  return (
    <div className={styles.body}>
      <div className={styles.charts}>
        <Rolling {...{ rolls, days, cameras, day, setDay }} />
        <Stack
          title="Running time by day and camera"
          unit={(v) => formatRunningTime(v)}
          days={days}
          cameras={cameras}
          value={(d, c) => sum(d, c, 'seconds')}
          show={show}
        />
        <Stack
          title="Size by day and camera"
          unit={formatBytes}
          days={days}
          cameras={cameras}
          value={(d, c) => sum(d, c, 'bytes')}
          show={show}
        />
        <Tally title="Frame rates" field="rate" list={sums.data.rates} show={show} />
        <Tally title="Codecs" field="codec" list={sums.data.codecs} show={show} />
      </div>
    </div>
  );
}

/** When each camera rolled on a day. */
function Rolling({
  rolls,
  days,
  cameras,
  day,
  setDay,
}: {
  rolls: Clocks['rolls'];
  days: readonly number[];
  cameras: readonly string[];
  day: number;
  setDay: (day: number) => void;
}) {
  const address = useAddress();
  const job = useJob().data;
  const router = useRouter();
  const bars = useMemo(
    (): DayBar[] =>
      rolls
        .filter((r) => r.day === day)
        .flatMap((r): DayBar[] => {
          const at = r.from % 86_400;
          const by = (from: number, kind: DayBar['kind']): DayBar => ({
            clip: r.clip,
            name: r.name,
            lane: r.camera,
            from,
            to: from + r.seconds,
            kind,
          });
          return [by(at, 'clock'), ...(r.timecode === null ? [] : [by(r.timecode, 'timecode')])];
        }),
    [rolls, day],
  );
  return (
    <section className={`${styles.chart} ${styles.wide}`}>
      <header>
        <h2>
          Rolling on {dayWords(day)}{' '}
          <span className="soft" style={{ fontWeight: 400 }}>
            {formatDay(job?.days.find((d) => d.number === day)?.date ?? null)}
          </span>
        </h2>
        <div role="group" aria-label="Day" style={{ display: 'flex', gap: 6 }}>
          {days.map((d) => (
            <button
              key={d}
              type="button"
              className={styles.only}
              style={
                d === day
                  ? { background: 'var(--ink)', color: 'var(--paper)', borderColor: 'var(--ink)' }
                  : {}
              }
              aria-pressed={d === day}
              onClick={() => setDay(d)}
            >
              {dayWords(d)}
            </button>
          ))}
        </div>
      </header>
      {bars.length > 0 ? (
        <DayChart
          bars={bars}
          lanes={cameras.filter((c) => bars.some((b) => b.lane === c))}
          open={(clip) => router.push(address(`/clip/${clip}`))}
          label={`When each camera rolled on day ${day}`}
        />
      ) : (
        <p className="soft">No clip of this day states when it was recorded.</p>
      )}
    </section>
  );
}

interface StackProps {
  title: string;
  unit: (v: number) => string;
  days: readonly number[];
  cameras: readonly string[];
  value: (day: number, camera: string) => number;
  show: (behind: Behind[]) => void;
}
function Stack({ title, unit, days, cameras, value, show }: StackProps) {
  const { mode } = useColorScheme();
  return (
    <section className={styles.chart}>
      <header>
        <h2>{title}</h2>
      </header>
      <div style={{ height: 190 }}>
        <Bar
          aria-label={title}
          key={mode}
          data={{
            labels: days.map((d) => dayWords(d)),
            datasets: cameras.map((c, i) => ({
              label: `Camera ${c}`,
              data: days.map((d) => value(d, c)),
              backgroundColor: colourOf(FILLS[i % FILLS.length]!),
              borderColor: colourOf('paper'),
              borderWidth: 1,
              maxBarThickness: 70,
            })),
          }}
          options={{
            ...shared(),
            onClick: (_, [hit]) => {
              if (hit)
                show([
                  {
                    only: { field: 'day', value: String(days[hit.index]) },
                    words: `day ${days[hit.index]}`,
                  },
                  {
                    only: { field: 'camera', value: cameras[hit.datasetIndex]! },
                    words: `camera ${cameras[hit.datasetIndex]}`,
                  },
                ]);
            },
            plugins: {
              legend: { position: 'right', labels: { boxWidth: 12, color: colourOf('ink') } },
              tooltip: { callbacks: { label: (i) => `${i.dataset.label}: ${unit(Number(i.raw))}` } },
            },
            scales: {
              x: { ...axis({ grid: false }), stacked: true },
              y: {
                ...axis(),
                stacked: true,
                ticks: { color: colourOf('soft'), maxTicksLimit: 5, callback: (v) => unit(Number(v)) },
              },
            },
          }}
        />
      </div>
    </section>
  );
}

function Tally({
  title,
  field,
  list,
  show,
}: {
  title: string;
  field: FieldId;
  list: FactSums['rates'];
  show: (behind: Behind[]) => void;
}) {
  const { mode } = useColorScheme();
  return (
    <section className={styles.chart}>
      <header>
        <h2>{title}</h2>
      </header>
      <div style={{ height: 40 + list.length * 30 }}>
        <Bar
          aria-label={title}
          key={mode}
          data={{
            labels: list.map((t) => t.words),
            datasets: [
              { data: list.map((t) => t.clips), backgroundColor: colourOf('harbour'), maxBarThickness: 20 },
            ],
          }}
          options={{
            ...shared(),
            indexAxis: 'y',
            onClick: (_, [hit]) => {
              const one = hit && list[hit.index];
              if (one) show([{ only: { field, value: one.words }, words: one.words }]);
            },
            plugins: {
              legend: { display: false },
              tooltip: { callbacks: { label: (i) => `${Number(i.raw)} clips` } },
            },
            scales: {
              x: { ...axis(), ticks: { color: colourOf('soft'), precision: 0, maxTicksLimit: 6 } },
              y: axis({ grid: false, ticks: { color: colourOf('ink') } }),
            },
          }}
        />
      </div>
    </section>
  );
}
