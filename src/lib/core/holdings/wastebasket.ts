import { extensionOf } from '../kinds/kinds';

/**
 * What is let go lies in a hidden folder of its own place, on the same disk, until it is given back or the folder is
 * emptied. Other programs do not show it; nothing in it is brought in, listed, or counted.
 */
export const WASTEBASKET = '.mindful-wastebasket';

/** Bytes of a name on common file systems. */
const LONGEST = 255;

/** What a file is called there: no two are the same, and people still know it. */
export function wasteName(operationId: string, position: number, name: string): string {
  const prefix = `${operationId.slice(-12)}-${position}-`;
  const whole = prefix + name;
  if (new TextEncoder().encode(whole).length <= LONGEST) return whole;
  const extension = extensionOf(name);
  return prefix + (extension ? `file.${extension}` : 'file');
}

/** What letting items go would do: their files move into the wastebasket of their place, until given back or emptied for good. */
export interface LettingGo {
  items: number;
  files: number;
  /** What is free once the wastebasket is emptied. */
  bytes: number;
  /** Items whose content the archive holds nowhere else. */
  onlyCopies: number;
  /** Items that stay, and why. */
  handsOff: number;
  notHere: number;
  /** Of all this: what is done is what was shown. */
  fingerprint: string;
}
