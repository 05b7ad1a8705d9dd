import { createHash } from 'node:crypto';
import { sql, type Kysely } from 'kysely';
import { ArchiveError } from '#core/errors';
import { FIELDS, type FieldKey, type RecordChange } from '#core/records/fields';
import { parsePosition, positionText } from '#core/geo/position';
import {
  changeFor,
  namesAt,
  positionsBy,
  type Named,
  type Naming,
  type Placed,
  type PositionLine,
  type PositionWish,
} from '#core/positions/wish';
import { apart, runApart } from '../apart/apart';
import type { namesNear } from '../gazetteer/nearest';
import type { Database } from '../db/schema';
import { listedSpots } from '../lists/spots';
import { changeEach, readRecords, type ItemRecord } from '../records/records';
import { trackOf } from './tracks';
import { isHeld, type SeenIds } from '../sight/seen';

type Db = Kysely<Database>;

/** Where many items would be; bound by a fingerprint to what is done. */
export interface PositionsPreview {
  lines: PositionLine[];
  changed: number;
  problems: number;
  fingerprint: string;
}

const NAMES = apart<typeof namesNear>('gazetteer/nearest', 'namesNear');
const SECONDS = 60;

/** What the gazetteer calls positions; one that is not asked twice is looked up once. */
async function namesOf(texts: readonly string[]): Promise<Map<string, Named | null>> {
  const all = [...new Set(texts)];
  const points = all.map((text): [number, number] => {
    const { latitude, longitude } = parsePosition(text)!;
    return [latitude, longitude];
  });
  const found = points.length > 0 ? await runApart(NAMES, { points }, SECONDS) : [];
  return new Map(all.map((text, at) => [text, found[at] ?? null]));
}

/** Of each item without a position what was taken nearest in time and has one. */
async function neighboursOf(
  db: Db,
  ids: SeenIds,
  minutes: number,
): Promise<Map<string, { position: string; number: string }>> {
  const near = sql`interval '1 minute' * ${minutes}`;
  const placed = sql`latitude is not null and ${isHeld('item')} and taken_edtf like '%T%'`;
  const { rows } = await sql<{
    id: string;
    latitude: number;
    longitude: number;
    number: string;
  }>`
    select i.id, o.latitude, o.longitude, o.number from item i cross join lateral (
      select * from (
        (select latitude, longitude, number, taken_from from item
          where ${placed} and taken_from <= i.taken_from and taken_from >= i.taken_from - ${near}
          order by taken_from desc limit 1)
        union all
        (select latitude, longitude, number, taken_from from item
          where ${placed} and taken_from >= i.taken_from and taken_from <= i.taken_from + ${near}
          order by taken_from limit 1)
      ) both_sides order by abs(extract(epoch from taken_from - i.taken_from)) limit 1
    ) o
    where i.id = any(${[...ids]}::uuid[]) and i.latitude is null and i.taken_edtf like '%T%'`.execute(
    db,
  );
  return new Map(
    rows.map(({ id, latitude, longitude, number }) => [
      id,
      { position: positionText(latitude, longitude), number },
    ]),
  );
}

async function itemsOf(db: Db, ids: SeenIds, wish: PositionWish) {
  const [records, names, neighbours] = await Promise.all([
    readRecords(db, ids),
    db
      .selectFrom('file')
      .select(['itemId', 'name'])
      .where('role', '=', 'original')
      .where('itemId', '=', sql<string>`any(${ids}::uuid[])`)
      .execute(),
    wish.act === 'neighbours' ? neighboursOf(db, ids, wish.minutes) : new Map<string, never>(),
  ]);
  const byId = new Map<string, ItemRecord>(records.map((one) => [one.id, one]));
  const named = new Map(names.map(({ itemId, name }) => [itemId, name]));
  return ids.flatMap((id): (Placed & { version: number })[] => {
    const record = byId.get(id);
    if (!record) return [];
    const { values, version } = record;
    const neighbour = neighbours.get(id) ?? null;
    return [{ id, name: named.get(id) ?? record.number, values, version, neighbour }];
  });
}

const namesWords = (change: RecordChange): string =>
  (Object.entries(change) as [FieldKey, string][])
    .filter(([key]) => key !== 'position')
    .map(([key, text]) => `${FIELDS[key].label}: ${text}`)
    .join(', ');

async function plan(db: Db, ids: SeenIds, wish: PositionWish, naming: Naming) {
  const items = await itemsOf(db, ids, wish);
  const track = wish.act === 'track' ? await trackOf(db, wish.track) : [];
  const answers = positionsBy(wish, items, track);
  const spots = naming.into.length > 0 ? await listedSpots(db) : [];
  const known =
    naming.into.length > 0
      ? await namesOf(answers.map(({ after }) => after).filter(Boolean))
      : new Map<string, Named | null>();
  const lines: PositionLine[] = [];
  const groups = new Map<string, { itemIds: string[]; change: RecordChange }>();
  items.forEach(({ id, name, values }, at) => {
    const { after, problem } = answers[at]!;
    const position = naming.into.length > 0 && after !== '' ? parsePosition(after) : null;
    const names = position ? namesAt(spots, position, known.get(after) ?? null) : null;
    const change = changeFor(values, after, names, naming);
    lines.push({ id, name, before: values.position, after, names: namesWords(change), problem });
    if (Object.keys(change).length === 0) return;
    // Items that get the same change as one group.
    const key = JSON.stringify(change);
    const group = groups.get(key) ?? { itemIds: [], change };
    group.itemIds.push(id);
    groups.set(key, group);
  });
  const versions = Object.fromEntries(items.map(({ id, version }) => [id, version]));
  const changed = [...groups.values()].reduce((sum, { itemIds }) => sum + itemIds.length, 0);
  return {
    lines,
    versions,
    groups: [...groups.values()],
    changed,
    problems: lines.filter(({ problem }) => problem !== null).length,
    fingerprint: createHash('sha256')
      .update(JSON.stringify([lines, versions]))
      .digest('base64url'),
  };
}

/** Where every one of them would be, and why some stay; nothing is changed. */
export async function positionsPreview(
  db: Db,
  ids: SeenIds,
  wish: PositionWish,
  naming: Naming,
): Promise<PositionsPreview> {
  const { lines, changed, problems, fingerprint } = await plan(db, ids, wish, naming);
  return { lines, changed, problems, fingerprint };
}

/**
 * Set where they were taken as it was shown: one operation of the ledger.
 * @returns the operation, null where nothing differs
 * @throws ArchiveError conflict where something changed since, value-refused
 */
export async function setPositions(
  db: Db,
  actorId: string | null,
  ids: SeenIds,
  { wish, naming, fingerprint }: { wish: PositionWish; naming: Naming; fingerprint?: string },
): Promise<{ operationId: string; changed: number } | null> {
  const { groups, versions, fingerprint: now } = await plan(db, ids, wish, naming);
  if (fingerprint !== undefined && fingerprint !== now)
    throw new ArchiveError(
      'conflict',
      'Something was changed since these positions were shown; look at them again.',
    );
  return groups.length === 0 ? null : changeEach(db, actorId, groups, { versions });
}
