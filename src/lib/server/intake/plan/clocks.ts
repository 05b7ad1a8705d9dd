import type { Plan } from '#core/intake/plan';
import { shiftTaken, type Taken } from '#core/records/taken';
import type { FileFacts } from '#core/intake/facts';

export interface ClockCorrection {
  /** Seconds that were added to the camera's clock. */
  shift: number;
  taken: Taken;
}

/** The time a camera should have told; null where its clock is not corrected or it told none. */
export function clockOf(
  plan: Pick<Plan, 'clocks'>,
  facts: Pick<FileFacts, 'record' | 'technical'>,
): ClockCorrection | null {
  const shift = plan.clocks[facts.technical.camera ?? ''];
  const { taken } = facts.record;
  const shifted = shift && taken ? shiftTaken(taken, shift) : null;
  return shift && shifted ? { shift, taken: shifted } : null;
}
