'use client';
import { useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useMemo, useState } from 'react';
import { Bar } from 'react-chartjs-2';
import { useColorScheme } from '@mui/material/styles';
import type { FieldId } from '../../core/facts/catalogue';
import type { FactTable } from '../../core/facts/shapes';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { useAddress, useServer } from '../platform/job';
import { formatBytes, formatDay } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import { axis, colourOf, FILLS, shared } from './charts';
import { type Only, rowsOf, wordsAt } from './columns';
import { type DayBar, DayChart } from './DayChart';
import styles from './facts.module.css';

const numberAt = (table: FactTable, field: FieldId, at: number): number | null => {
  const column = table.columns.find((c) => c.field === field);
  const cell = column?.rows[at];
  return cell === null || cell === undefined ? null : column!.cells[cell]![1];
};

/** A day through by camera; running time and size by day; rates and codecs. Each opens the clips behind it. */
export function ChartsView({ table, show }: { table: FactTable; show: (only: Only[]) => void }) {
  const address = useAddress();
  const server = useServer();
  const job = useJob().data;
  const router = useRouter();
  const clocks = useQuery({ queryKey: ['clocks'], queryFn: server.clocks });
  const rows = useMemo(() => rowsOf(table), [table]);
  const days = [...new Set(rows.map((r) => r.day))].sort((a, b) => a - b);
  const [chosen, setDay] = useState<number | null>(null);
  const day = chosen ?? days[0] ?? 1;
  const bars = useMemo(
    (): DayBar[] =>
      (clocks.data?.rolls ?? [])
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
    [clocks.data, day],
  );
  if (clocks.error)
    return (
      <div className={styles.body}>
        <ErrorNotice error={clocks.error} again={() => void clocks.refetch()} />
      </div>
    );
  if (rows.length === 0)
    return (
      <Empty title="Nothing to draw yet">
        <p className="soft">Bring in footage first.</p>
      </Empty>
    );
  const cameras = [...new Set(rows.map((r) => r.camera))].sort();
  const sum = (d: number, c: string, field: FieldId) =>
    rows
      .filter((r) => r.day === d && r.camera === c)
      .reduce((n, r) => n + (numberAt(table, field, r.at) ?? 0), 0);
  const tally = (field: FieldId) => {
    const n = new Map<string, number>();
    for (const r of rows) {
      const w = wordsAt(table, field, r.at);
      if (w) n.set(w, (n.get(w) ?? 0) + 1);
    }
    return [...n].sort((a, b) => b[1] - a[1]).slice(0, 12);
  };
  const dayWords = (d: number) => `Day ${d}`;
  return (
    <div className={styles.body}>
      <div className={styles.charts}>
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
        <Stack
          title="Running time by day and camera"
          unit={(v) => formatRunningTime(v)}
          days={days}
          cameras={cameras}
          value={(d, c) => sum(d, c, 'length')}
          show={show}
        />
        <Stack
          title="Size by day and camera"
          unit={formatBytes}
          days={days}
          cameras={cameras}
          value={(d, c) => sum(d, c, 'size')}
          show={show}
        />
        <Tally title="Frame rates" field="rate" list={tally('rate')} show={show} />
        <Tally title="Codecs" field="codec" list={tally('codec')} show={show} />
      </div>
    </div>
  );
}

interface StackProps {
  title: string;
  unit: (v: number) => string;
  days: readonly number[];
  cameras: readonly string[];
  value: (day: number, camera: string) => number;
  show: (only: Only[]) => void;
}
function Stack({ title, unit, days, cameras, value, show }: StackProps) {
  const { mode } = useColorScheme();
  return (
    <section className={styles.chart}>
      <header>
        <h2>{title}</h2>
      </header>
      <div style={{ height: 190 }} role="img" aria-label={title}>
        <Bar
          key={mode}
          data={{
            labels: days.map((d) => `Day ${d}`),
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
                  { field: 'day', value: String(days[hit.index]), words: `day ${days[hit.index]}` },
                  {
                    field: 'camera',
                    value: cameras[hit.datasetIndex]!,
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
  list: readonly (readonly [string, number])[];
  show: (only: Only[]) => void;
}) {
  const { mode } = useColorScheme();
  return (
    <section className={styles.chart}>
      <header>
        <h2>{title}</h2>
      </header>
      <div style={{ height: 40 + list.length * 30 }} role="img" aria-label={title}>
        <Bar
          key={mode}
          data={{
            labels: list.map(([w]) => w),
            datasets: [
              { data: list.map(([, n]) => n), backgroundColor: colourOf('harbour'), maxBarThickness: 20 },
            ],
          }}
          options={{
            ...shared(),
            indexAxis: 'y',
            onClick: (_, [hit]) => {
              const one = hit && list[hit.index];
              if (one) show([{ field, value: one[0], words: one[0] }]);
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
