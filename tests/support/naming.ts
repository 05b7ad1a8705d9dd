import type { ClashRule } from '#core/naming/rename';
import { HOUSE } from '#core/sight/viewer';

/** A rename that settles nothing by itself. */
export const AS_WISHED = {
  viewer: HOUSE,
  clash: 'refuse' as ClashRule,
  extension: 'lower',
} as const;
