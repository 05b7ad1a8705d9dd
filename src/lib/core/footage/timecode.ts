/**
 * Timecode of SMPTE ST 12-1: hours, minutes, seconds and frames of a nominal whole rate. Drop-frame counting (written
 * with a semicolon) leaves out the first numbers of each minute but every tenth: 2 at 29.97, 4 at 59.94, 8 at 119.88 frames a
 * second. Rates that count 24 or 48 have none.
 */
export interface Timecode {
  /** Frames since midnight. */
  frame: number;
  /** Frames counted in a second: 24, 25, 30, 48, 60, 120 … */
  base: number;
  drop: boolean;
}

/** Rates that are counted with left out numbers where it is wished. */
const DROPS = new Set([30, 60, 120]);
const dropped = (base: number): number => base / 15;
/** Digits of the number of a frame. */
const digitsOf = (base: number): number => (base > 100 ? 3 : 2);

/** Frames of a day, after which it begins at midnight again. */
export function framesOfDay({ base, drop }: Pick<Timecode, 'base' | 'drop'>): number {
  const all = 24 * 3600 * base;
  return drop ? all - dropped(base) * (24 * 60 - 24 * 6) : all;
}

/** Frames that a rate counts in a second: 29.97 counts 30. @param rate frames per second */
export const baseOf = (rate: number): number => Math.max(1, Math.round(rate));

/**
 * @param text `10:00:00:00`, `01:00:58;02`
 * @param rate frames per second
 * @returns null where it is no timecode of that rate
 */
export function parseTimecode(text: string, rate: number): Timecode | null {
  const match = /^(\d\d):(\d\d):(\d\d)([:;.,])(\d\d\d?)$/.exec(text.trim());
  if (!match) return null;
  const base = baseOf(rate);
  const [hours, minutes, seconds, frames] = [1, 2, 3, 5].map((at) => Number(match[at])) as [
    number,
    number,
    number,
    number,
  ];
  if (hours > 23 || minutes > 59 || seconds > 59 || frames >= base) return null;
  const drop = match[4] !== ':' && DROPS.has(base);
  const all = ((hours * 60 + minutes) * 60 + seconds) * base + frames;
  if (!drop) return { frame: all, base, drop };
  if (seconds === 0 && frames < dropped(base) && minutes % 10 !== 0) return null;
  const total = hours * 60 + minutes;
  return { frame: all - dropped(base) * (total - Math.floor(total / 10)), base, drop };
}

/** The timecode some frames later; a day after, it begins anew. */
export function addFrames(timecode: Timecode, frames: number): Timecode {
  const day = framesOfDay(timecode);
  return { ...timecode, frame: (((timecode.frame + frames) % day) + day) % day };
}

export function formatTimecode({ frame, base, drop }: Timecode): string {
  let counted = frame;
  if (drop) {
    const missing = dropped(base);
    const ten = 600 * base - missing * 9;
    const minute = 60 * base - missing;
    const tens = Math.floor(frame / ten);
    const rest = frame % ten;
    const minutes = rest < 60 * base ? 0 : 1 + Math.floor((rest - 60 * base) / minute);
    counted = frame + missing * (tens * 9 + minutes);
  }
  const pad = (value: number, digits = 2): string => String(value).padStart(digits, '0');
  const seconds = Math.floor(counted / base);
  return `${pad(Math.floor(seconds / 3600))}:${pad(Math.floor(seconds / 60) % 60)}:${pad(seconds % 60)}${drop ? ';' : ':'}${pad(counted % base, digitsOf(base))}`;
}
