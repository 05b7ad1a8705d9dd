/** Words for numbers; always the archive's own locale so that server and browser agree. */
const LOCALE = 'en-GB';

export const formatCount = (value: number): string => new Intl.NumberFormat(LOCALE).format(value);

/** `412 items`, `1 item`. */
export function counted(value: number, one: string, many = `${one}s`): string {
  return `${formatCount(value)} ${value === 1 ? one : many}`;
}

/** Bytes in decimal units as disks are sold: `28.1 GB`. */
export function formatBytes(bytes: number): string {
  const units = ['B', 'kB', 'MB', 'GB', 'TB'];
  let value = bytes;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit += 1;
  }
  const digits = unit === 0 || value >= 100 ? 0 : 1;
  return `${new Intl.NumberFormat(LOCALE, { maximumFractionDigits: digits }).format(value)} ${units[unit]}`;
}

/** Seconds as `0:42` or `1:02:07`. */
export function formatDuration(seconds: number): string {
  const whole = Math.round(seconds);
  const parts = [Math.floor(whole / 3600), Math.floor((whole % 3600) / 60), whole % 60];
  const pad = (value: number): string => String(value).padStart(2, '0');
  return parts[0]
    ? `${parts[0]}:${pad(parts[1]!)}:${pad(parts[2]!)}`
    : `${parts[1]}:${pad(parts[2]!)}`;
}

/** `about 6 min`, `under a minute`. */
export function formatEta(seconds: number): string {
  if (seconds < 60) return 'under a minute';
  if (seconds < 5400) return `about ${Math.round(seconds / 60)} min`;
  return `about ${(seconds / 3600).toFixed(1)} h`;
}

/** `a`, `a and b`, `a, b and c`. */
export function listed(words: string[], joint = 'and'): string {
  if (words.length < 2) return words[0] ?? '';
  return `${words.slice(0, -1).join(', ')} ${joint} ${words[words.length - 1]}`;
}
