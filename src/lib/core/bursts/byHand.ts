import type { BurstEntry } from '../entries/burst';

/** Put frames together, take their bursts apart, or let one stand for its burst. */
export const BURST_ACTS = ['fold', 'unfold', 'first'] as const;
export type BurstAct = (typeof BURST_ACTS)[number];

export interface HandFrame {
  id: string;
  entry: BurstEntry;
}

const BY_HAND = 'put first by hand';

/** Who is first of what is left of each burst, where whoever stood for it went. */
function left(frames: readonly HandFrame[], gone: ReadonlySet<string>): HandFrame[] {
  const rest = new Map<string, HandFrame[]>();
  for (const frame of frames)
    if (frame.entry.burst !== null && !gone.has(frame.id))
      rest.set(frame.entry.burst, [...(rest.get(frame.entry.burst) ?? []), frame]);
  return [...rest.values()].flatMap((group) =>
    group.some(({ entry }) => entry.lead) ? [] : [group[0]!],
  );
}

/**
 * How frames stand once somebody took some in hand; frames that stand as before may be among them.
 * @param frames those taken and all in one burst with them, in the order they were taken
 * @param taken ids, the one to stand for all first
 * @param burst id of a new burst
 */
export function byHand(
  frames: readonly HandFrame[],
  taken: readonly string[],
  act: BurstAct,
  burst: string,
): Map<string, BurstEntry> {
  const now = new Map<string, BurstEntry>();
  const mine = new Set(taken);
  if (act === 'unfold')
    for (const { id } of frames)
      now.set(id, { burst: null, lead: true, reason: null, byHand: true });
  if (act === 'first') {
    const chosen = frames.find(({ id }) => id === taken[0]);
    if (chosen?.entry.burst)
      for (const { id, entry } of frames)
        if (entry.burst === chosen.entry.burst) {
          const lead = id === chosen.id;
          now.set(id, { ...entry, lead, reason: lead ? BY_HAND : null, byHand: true });
        }
  }
  if (act === 'fold') {
    for (const { id } of frames.filter((frame) => mine.has(frame.id))) {
      const lead = id === taken[0];
      now.set(id, { burst, lead, reason: lead ? BY_HAND : null, byHand: true });
    }
    for (const { id, entry } of left(frames, mine)) now.set(id, { ...entry, lead: true });
  }
  return now;
}
