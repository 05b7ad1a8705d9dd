import type { Role } from './roles';

/** Who asks: every read of the catalogue takes one. `house` is the archive's own work, which sees all. */
export interface Viewer {
  role: Role | 'house';
}
export const HOUSE: Viewer = { role: 'house' };
