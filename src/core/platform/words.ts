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

/** "12,345". */
export const formatCount = (n: number): string => n.toLocaleString('en-GB');

/** "1 clip", "12 clips". */
export const plural = (n: number, one: string, many = `${one}s`): string =>
  `${formatCount(n)} ${n === 1 ? one : many}`;
