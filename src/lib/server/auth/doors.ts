import { ArchiveError } from '#core/errors';
import { can, type Ability } from '#core/people/roles';
import type { Actor } from './people';

/**
 * Every door of the archive and what it asks for: the one place where permission is decided. A route that
 * is not listed is closed to everyone.
 */
type Need = Ability | 'anyone';
type Door = Need | { GET?: Need; POST?: Need; PATCH?: Need; DELETE?: Need; PUT?: Need };

export const DOORS: Record<string, Door> = {
  '/': 'look',
  '/health': 'anyone',
  '/sign-in': 'anyone',
  '/welcome': 'anyone',
  '/sign-out': 'anyone',
  '/account': 'account',
  '/people': 'manage',
  '/intake': 'intake',
  '/intake/[number]': 'intake',
  '/places': 'manage',
  '/catalogue': 'look',
  '/catalogue/[number]': 'look',
  '/side': 'look',
  '/collections': 'look',
  '/collections/[id]': 'look',
  '/dispatch': 'dispatch',
  '/dispatch/[id]': 'dispatch',
  '/ledger': 'ledger',
  '/ledger/wastebasket': 'ledger',
  '/r/[token]': 'anyone',
  '/r/[token]/picture/[item]/[size]': 'anyone',
  '/r/[token]/file/[item]/[size]': 'anyone',
  '/r/[token]/media/[item]': 'anyone',
  '/r/[token]/pick': 'anyone',
  '/api/live': 'look',
  '/api/remembered/[key]': 'account',
  '/api/catalogue/wall': 'look',
  '/api/catalogue/result': 'look',
  '/api/catalogue/stretch': 'look',
  '/api/catalogue/folders': 'look',
  '/api/catalogue/labels': 'look',
  '/api/catalogue/why': 'look',
  '/api/catalogue/cells': 'look',
  '/api/catalogue/csv': 'look',
  '/api/catalogue/density': 'look',
  '/api/catalogue/positions': 'look',
  '/api/catalogue/census': 'look',
  '/census': 'look',
  '/reference': 'look',
  '/api/v1/items': 'look',
  '/api/v1/items/[number]': { GET: 'look', PATCH: 'describe' },
  '/api/v1/facets': 'look',
  '/api/v1/fields': 'look',
  '/api/v1/openapi.json': 'look',
  '/api/catalogue/tiles': 'look',
  '/api/catalogue/ids': 'look',
  '/api/catalogue/choices': 'look',
  '/api/catalogue/neighbours': 'look',
  '/api/catalogue/complete': 'look',
  '/api/items/[id]': 'look',
  '/api/items/[id]/original': 'original',
  '/api/items/[id]/drawing': 'original',
  '/api/items/[id]/film': 'look',
  '/api/items/[id]/measure': 'look',
  '/api/items/[id]/media': 'look',
  '/api/items/[id]/pages/[page]': 'look',
  '/api/items/[id]/peaks': 'look',
  '/api/items/[id]/picture': 'describe',
  '/api/items/[id]/specimen': 'look',
  '/api/items/[id]/strip': 'look',
  '/api/items/[id]/text': 'look',
  '/api/items/[id]/tiles': 'look',
  '/api/items/[id]/tiles/[...path]': 'look',
  '/api/pictures/[item]/[key]/[size]': 'look',
  '/api/records': { POST: 'look', PATCH: 'describe' },
  '/api/records/numbers': 'look',
  '/api/records/column': 'describe',
  '/api/records/column/preview': 'describe',
  '/api/records/first': 'manage',
  '/api/records/rules': 'manage',
  '/api/records/settle': 'describe',
  '/api/bursts': 'describe',
  '/api/terms': 'look',
  '/api/terms/near': 'look',
  '/api/terms/rules': 'manage',
  '/lists': 'look',
  '/lists/stages': 'look',
  '/lists/stamps': 'look',
  '/lists/contributors': 'look',
  '/lists/rules': 'look',
  '/lists/spots': 'look',
  '/api/lists/stages': { GET: 'look', POST: 'manage', PUT: 'manage' },
  '/api/lists/stages/[id]': 'manage',
  '/api/lists/terms': { GET: 'look', POST: 'manage' },
  '/api/lists/terms/[id]': { GET: 'look', PATCH: 'manage', POST: 'manage', DELETE: 'manage' },
  '/api/lists/terms/file': { GET: 'look', POST: 'manage' },
  '/api/lists/contributors': { GET: 'look', POST: 'manage' },
  '/api/lists/contributors/[id]': 'manage',
  '/api/lists/contributors/preview': 'manage',
  '/api/lists/stamps': { GET: 'look', POST: 'describe' },
  '/api/lists/stamps/[id]': 'describe',
  '/api/lists/stamps/put': 'describe',
  '/api/lists/spots': { GET: 'look', POST: 'describe' },
  '/api/lists/spots/[id]': 'describe',
  '/api/positions': 'describe',
  '/api/positions/preview': 'describe',
  '/api/positions/tracks': 'describe',
  '/api/positions/tracks/[id]': 'describe',
  '/api/dates': 'describe',
  '/api/dates/preview': 'describe',
  '/api/rename': 'rename',
  '/api/rename/material': 'rename',
  '/api/rename/one': 'rename',
  '/api/patterns': 'rename',
  '/api/patterns/[id]': 'rename',
  '/api/wastebasket': 'rename',
  '/api/wastebasket/preview': 'rename',
  '/api/ledger/csv': 'ledger',
  '/api/ledger/undo': 'ledger',
  '/api/ledger/[id]/later': 'ledger',
  '/api/ledger/[id]': 'ledger',
  '/api/ledger/[id]/undo': 'ledger',
  '/api/jobs': 'look',
  '/api/jobs/[id]': 'look',
  '/api/collections': { GET: 'look', POST: 'collect' },
  '/api/collections/[id]': { PATCH: 'collect', DELETE: 'collect', POST: 'collect' },
  '/api/collections/[id]/items': 'collect',
  '/api/rooms': 'dispatch',
  '/api/rooms/[id]': 'dispatch',
  '/api/intake/folders': 'intake',
  '/api/intake/scans': 'intake',
  '/api/intake/scans/[id]': 'intake',
  '/api/intake/scans/[id]/[position]': 'intake',
  '/api/intake/plan': 'intake',
  '/api/intake/accessions': 'intake',
  '/api/intake/accessions/[id]': 'intake',
  '/api/intake/accessions/[id]/report': 'intake',
  '/api/intake/accessions/[id]/manifest': 'intake',
  '/api/intake/accessions/[id]/empty': 'intake',
  '/api/intake/devices/[key]': 'intake',
  '/api/intake/parcels': 'intake',
  '/api/intake/parcels/[id]': 'intake',
  '/api/intake/web': 'intake',
  '/api/intake/sheets': 'intake',
  '/api/uploads/[...id]': 'intake',
  '/api/intake/plans': 'intake',
  '/api/intake/plans/[id]': 'intake',
  '/api/intake/counters': 'intake',
  '/api/intake/drop-zone': { GET: 'intake', PUT: 'manage' },
  '/api/places': { GET: 'look', POST: 'manage' },
  '/api/places/[id]': 'manage',
  '/api/places/folders': { GET: 'look', POST: 'rename' },
  '/api/places/folders/[id]': 'rename',
  '/api/filing': 'rename',
  '/api/filing/preview': 'rename',
};

/** What a request to a route needs; null where there is no such door. */
export function needOf(routeId: string, method: string): Need | null {
  // Groups in parentheses share a layout, not an address.
  const door = DOORS[routeId.replace(/\/\([^)]+\)/g, '') || '/'];
  if (door === undefined) return null;
  if (typeof door === 'string') return door;
  const verb = method === 'HEAD' ? 'GET' : method;
  return door[verb as keyof typeof door] ?? null;
}

/**
 * Let a request through or not.
 * @throws ArchiveError sign-in-needed, not-allowed
 */
export function checkDoor(routeId: string, method: string, actor: Actor | null): void {
  const need = needOf(routeId, method);
  if (need === 'anyone') return;
  if (!actor) throw new ArchiveError('sign-in-needed', 'Sign in first.');
  if (need === null || !can(actor.role, need))
    throw new ArchiveError(
      'not-allowed',
      'Your role does not open this door. A keeper can change that.',
    );
}
