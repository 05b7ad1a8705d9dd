import { sql, type Kysely } from 'kysely';
import { gather, type Box, type Cluster } from '#core/atlas/clusters';
import { knownField } from '#core/fields/registry';
import type { Viewer } from '#core/sight/viewer';
import type { Query } from '#core/query/tree';
import { densityOf, LENGTH, type Density, type Unit } from '#core/timeline/bins';
import type { Database } from '../db/schema';
import { asked } from '../query/conditions';
import { FROM, intervalOf } from '../query/expressions';

const FORMATS: Record<Unit, string> = {
  decade: 'YYYY',
  year: 'YYYY',
  month: 'YYYY-MM',
  day: 'YYYY-MM-DD',
  hour: 'YYYY-MM-DD"T"HH24',
  clock: 'HH24',
};

/** How densely the times of a field lie, as the database counts them. */
export async function densityIn(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  key: string,
  unit: Unit,
): Promise<Density> {
  const { where } = await asked(db, viewer, query);
  const { from, to } = intervalOf(knownField(key));
  const format = FORMATS[unit];
  const name = (at: typeof from): typeof from =>
    unit === 'decade'
      ? sql`left(to_char(${at}, 'YYYY'), ${LENGTH.decade}::int) || '0s'`
      : sql`to_char(${at}, ${format})`;
  const exact = unit === 'clock' ? sql`${from} = ${to}` : sql`${name(from)} = ${name(to)}`;
  const { rows } = await sql<{
    step: string | null;
    span: string | null;
    count: number;
    bytes: number;
  }>`
    select case when ${exact} then ${name(from)} end as step,
      case when not ${exact} then to_char(${from}, 'YYYY-MM-DD') || '/' || to_char(${to}, 'YYYY-MM-DD') end as span,
      count(*)::int as count, sum(f.size)::float8 as bytes
    from ${FROM} where ${where} group by 1, 2`.execute(db);
  const bins = new Map<string, { count: number; bytes: number }>();
  const wide = new Map<string, number>();
  let unknown = 0;
  for (const { step, span, count, bytes } of rows)
    if (step !== null) bins.set(step, { count, bytes });
    else if (span !== null) wide.set(span, count);
    else unknown += count;
  return densityOf(unit, bins, wide, unknown);
}

/** Positions in a box, gathered for a map of some scale; and how many have none. */
export async function positionsIn(
  db: Kysely<Database>,
  viewer: Viewer,
  query: Query,
  box: Box,
  cell: number,
): Promise<{ clusters: Cluster[]; lacking: number }> {
  const { where } = await asked(db, viewer, query);
  const inside: Query = {
    ...query,
    where: [
      ...query.where,
      { field: 'position', test: 'box', values: [box.south, box.west, box.north, box.east] },
    ],
  };
  const within = await asked(db, viewer, inside);
  const [{ rows }, lacks] = await Promise.all([
    sql<{ ord: number; latitude: number; longitude: number }>`select i.ord, i.latitude, i.longitude
      from ${FROM} where ${within.where}`.execute(db),
    sql<{
      count: number;
    }>`select count(*)::int as count from ${FROM} where ${where} and i.latitude is null`.execute(
      db,
    ),
  ]);
  const grid = gather(cell);
  for (const { ord, latitude, longitude } of rows) grid.add(latitude, longitude, ord);
  return { clusters: grid.clusters(), lacking: lacks.rows[0]!.count };
}
