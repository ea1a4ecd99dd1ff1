'use client';
import Link from '../platform/Link';
import type { Rolling } from '../../core/overview/shapes';
import { formatDay } from '../platform/format';
import styles from './wall.module.css';
import { useAddress } from '../platform/job';

const clock = (s: number): string =>
  `${String(Math.floor(s / 3600)).padStart(2, '0')}:${String(Math.floor(s / 60) % 60).padStart(2, '0')}`;

/** When each camera rolled through a day, by time of day. Each bar opens its clip. Short takes keep a visible width. */
export function RollingChart({
  day,
  cameras,
  rolling,
}: {
  day: { number: number; date: string | null };
  cameras: string[];
  rolling: Rolling[];
}) {
  const address = useAddress();
  const from = Math.floor(Math.min(...rolling.map((r) => r.from), 24 * 3600) / 3600) * 3600;
  const to = Math.max(from + 3600, Math.ceil(Math.max(...rolling.map((r) => r.to), 0) / 3600) * 3600);
  const hours = Array.from({ length: Math.round((to - from) / 3600) + 1 }, (_, i) => from + i * 3600);
  const step = Math.ceil(hours.length / 12);
  const at = (s: number) => `${(100 * (s - from)) / (to - from)}%`;
  return (
    <section className={styles.rolling} aria-label={`Rolling on day ${day.number}`}>
      <div>
        <strong>Rolling on day {day.number}</strong>{' '}
        <span className="soft">{formatDay(day.date)} · by recorded time</span>
      </div>
      {rolling.length === 0 ? (
        <p className="soft" style={{ padding: '16px 0' }}>
          No clip of this day states when it was recorded.
        </p>
      ) : (
        <div className={styles.chart}>
          <div className={styles.hours}>
            {hours.map(
              (h, i) =>
                i % step === 0 && (
                  <span key={h} className="figures soft" style={{ left: at(h) }}>
                    {clock(h)}
                  </span>
                ),
            )}
          </div>
          {cameras.map((c) => (
            <div key={c} className={styles.lane}>
              <strong className="figures">{c}</strong>
              <div>
                {rolling
                  .filter((r) => r.camera === c)
                  .map((r) => (
                    <Link
                      key={r.clip}
                      href={address(`/clip/${r.clip}`)}
                      style={{
                        left: at(r.from),
                        width: `max(5px, ${(100 * (r.to - r.from)) / (to - from)}%)`,
                      }}
                      title={`${r.name}, ${clock(r.from)}`}
                      aria-label={`${r.name}, ${clock(r.from)}`}
                    />
                  ))}
              </div>
            </div>
          ))}
        </div>
      )}
    </section>
  );
}
