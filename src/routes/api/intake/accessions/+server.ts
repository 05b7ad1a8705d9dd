import { z } from 'zod';
import { MODES, planSchema } from '#core/intake/plan';
import { actorOf, endpoint } from '#server/edge/edge';
import { startAccession } from '#server/intake/plan/accession';
import { bundled } from '#server/intake/sources/files';
import { readScan } from '#server/intake/look/scan';
import { rememberPlan } from '#server/intake/plan/plans';
import { placeById, placeForSource } from '#server/places/places';

const wishSchema = z.object({
  scanId: z.uuid(),
  positions: z.array(z.number().int().min(0)).min(1, 'nothing is chosen').max(100_000),
  mode: z.enum(MODES).default('copy'),
  /** Null where a folder kept in place becomes a place of its own. */
  placeId: z.uuid().nullable(),
  placeName: z.string().trim().max(200).default(''),
  title: z.string().trim().min(1).max(200),
  plan: planSchema,
  singleCopy: z.boolean().default(false),
  /** Folders below the source that are one item each. */
  bundles: z.array(z.string().max(4000)).max(5000).default([]),
  /** What to do with files that are held, by position; without a word they are left out. */
  decisions: z
    .record(z.string(), z.union([z.enum(['again', 'describe']), z.object({ versionOf: z.uuid() })]))
    .default({}),
});

/** Bring the chosen files of a scan in. */
export const POST = endpoint({ body: wishSchema }, async (event, wish) => {
  const { db } = event.locals.house;
  const actor = actorOf(event);
  const scan = await readScan(db, wish.scanId);
  const chosen = new Set(wish.positions);
  const place =
    wish.mode === 'in-place' && !wish.placeId
      ? await placeForSource(event.locals.house, actor, scan.root, wish.placeName)
      : await placeById(db, wish.placeId ?? '');
  const started = await startAccession(event.locals.house, {
    title: wish.title,
    source: scan.source,
    root: scan.root,
    scanId: scan.id,
    mode: wish.mode,
    place,
    plan: wish.plan,
    files: [
      ...bundled(
        scan.files
          .filter((file) => chosen.has(file.position))
          .map(({ path, size, position }) => ({ path, size, decision: wish.decisions[position] })),
        wish.bundles,
      ),
      ...scan.leftOut.map(({ path, why }) => ({ path, size: 0, leftOut: why })),
    ],
    actorId: actor.id,
    singleCopy: wish.singleCopy,
  });
  await rememberPlan(db, actor.id, scan.source, {
    mode: wish.mode,
    placeId: wish.mode === 'in-place' ? null : place.id,
    plan: wish.plan,
  });
  return started;
});
