import { MONTHS } from '../../core/platform/words';

export { formatBytes, formatCount, formatDay, plural } from '../../core/platform/words';

/** A moment of the logbook in the person's own time: "5 May 14:22". */
export function formatMoment(iso: string): string {
  const d = new Date(iso);
  const two = (n: number) => String(n).padStart(2, '0');
  return `${d.getDate()} ${MONTHS[d.getMonth()]} ${two(d.getHours())}:${two(d.getMinutes())}`;
}

/** Seconds left, roughly: "a moment", "40 s", "4 min", "1 h 10 min". */
export function formatLeft(seconds: number): string {
  if (seconds < 2) return 'a moment';
  if (seconds < 60) return `${Math.round(seconds)} s`;
  const minutes = Math.round(seconds / 60);
  return minutes < 60 ? `${minutes} min` : `${Math.floor(minutes / 60)} h ${minutes % 60} min`;
}
