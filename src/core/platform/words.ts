/** "44 GB", "1.2 TB", "512 kB": decimal units, as drives are sold. */
export function formatBytes(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB', 'PB'];
  let n = bytes;
  let unit = 0;
  while (n >= 999.5 && unit < units.length - 1) {
    n /= 1000;
    unit++;
  }
  return `${n < 9.95 && unit > 0 ? n.toFixed(1) : Math.round(n)} ${units[unit]}`;
}

/** A moment by the clock of the world, "2026-05-06 14:22 UTC". */
export const formatUtc = (iso: string): string => `${iso.slice(0, 10)} ${iso.slice(11, 16)} UTC`;

/** "12,345". */
export const formatCount = (n: number): string => n.toLocaleString('en-GB');

/** "1 clip", "12 clips". */
export const plural = (n: number, one: string, many = `${one}s`): string =>
  `${formatCount(n)} ${n === 1 ? one : many}`;

const WEEKDAYS = ['Sun', 'Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat'];
export const MONTHS = ['Jan', 'Feb', 'Mar', 'Apr', 'May', 'Jun', 'Jul', 'Aug', 'Sep', 'Oct', 'Nov', 'Dec'];

/** "Tue 5 May" of "2026-05-05"; "no date" where there is none. */
export function formatDay(date: string | null): string {
  if (!date) return 'no date';
  const d = new Date(`${date}T00:00:00Z`);
  return `${WEEKDAYS[d.getUTCDay()]} ${d.getUTCDate()} ${MONTHS[d.getUTCMonth()]}`;
}
