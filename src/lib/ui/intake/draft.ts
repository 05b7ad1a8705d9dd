import type { Mode, Plan } from '#core/intake/plan';

export interface PlaceChoice {
  id: string;
  name: string;
  root: string;
  handsOff: boolean;
}

/** A plan as it comes from the server: saved, or last used for a source. */
export interface KeptPlan {
  mode: Mode;
  placeId: string | null;
  plan: Plan;
}

export const STAMPED = ['title', 'creator', 'creditLine', 'copyrightNotice', 'caption'] as const;
export type Stamped = (typeof STAMPED)[number];

/** A plan while somebody writes it: lists are text, parted by commas or semicolons. */
export interface Draft {
  title: string;
  mode: Mode;
  placeId: string;
  filing: string;
  naming: string;
  terms: string;
  way: Plan['stamp']['way'];
  stamp: Record<Stamped, string>;
  /** Ids of kept stamps. */
  stamps: string[];
  /** Empty: no second copy. */
  secondCopyId: string;
  countersGoOn: boolean;
  /** Seconds by camera. */
  clocks: Record<string, number>;
  /** After a move one copy will do. */
  singleCopy: boolean;
}

const FILING = '{taken yyyy}/{taken yyyy-MM-dd}';
const NAMING = '{taken yyyyMMdd}-{counter 0001 by day}';

/** A draft from a kept plan, or from the first words we offer. */
export function draftFrom(kept: KeptPlan | null, title: string, places: PlaceChoice[]): Draft {
  const plan = kept?.plan;
  const values = plan?.stamp.values ?? {};
  const writable = places.filter(({ handsOff }) => !handsOff);
  const known = (id: string | null | undefined): string =>
    writable.find((place) => place.id === id)?.id ?? '';
  return {
    title,
    mode: kept?.mode ?? 'copy',
    placeId: known(kept?.placeId) || (writable[0]?.id ?? ''),
    filing: plan?.filing ?? FILING,
    naming: plan?.naming ?? NAMING,
    terms: plan?.terms.join(', ') ?? '',
    way: plan?.stamp.way ?? 'fill blanks',
    stamp: {
      title: values.title ?? '',
      creator: values.creator?.join('; ') ?? '',
      creditLine: values.creditLine ?? '',
      copyrightNotice: values.copyrightNotice ?? '',
      caption: values.caption ?? '',
    },
    stamps: plan?.stamps ?? [],
    secondCopyId: known(plan?.secondCopyId),
    countersGoOn: plan?.countersGoOn ?? true,
    clocks: plan?.clocks ?? {},
    singleCopy: false,
  };
}

const parts = (text: string, mark: string): string[] =>
  text
    .split(mark)
    .map((part) => part.trim())
    .filter(Boolean);

/** What the server is told. */
export function planOf(draft: Draft): Plan {
  const { title, caption, creditLine, copyrightNotice } = draft.stamp;
  const creator = parts(draft.stamp.creator, ';');
  return {
    filing: draft.filing,
    naming: draft.naming,
    terms: parts(draft.terms, ','),
    stamp: {
      way: draft.way,
      values: {
        ...(title && { title }),
        ...(caption && { caption }),
        ...(creditLine && { creditLine }),
        ...(copyrightNotice && { copyrightNotice }),
        ...(creator.length > 0 && { creator }),
      },
    },
    stamps: draft.stamps,
    secondCopyId: draft.mode === 'in-place' ? null : draft.secondCopyId || null,
    countersGoOn: draft.countersGoOn,
    clocks: Object.fromEntries(Object.entries(draft.clocks).filter(([, shift]) => shift !== 0)),
  };
}

/** `+1:03:00`, `-0:00:12` from seconds. */
export function formatShift(seconds: number): string {
  const size = Math.abs(seconds);
  const two = (value: number): string => String(value).padStart(2, '0');
  return `${seconds < 0 ? '-' : '+'}${Math.floor(size / 3600)}:${two(Math.floor(size / 60) % 60)}:${two(size % 60)}`;
}

/** Seconds from `+1:03`, `-0:00:12` or `90`; null where the text is no shift. */
export function parseShift(text: string): number | null {
  const match = /^\s*([+-]?)(\d{1,6})(?::([0-5]?\d))?(?::([0-5]?\d))?\s*$/.exec(text);
  if (!match) return null;
  const [, sign, first, second, third] = match;
  const seconds =
    second === undefined
      ? Number(first)
      : Number(first) * 3600 + Number(second) * 60 + Number(third ?? 0);
  return sign === '-' ? -seconds : seconds;
}
