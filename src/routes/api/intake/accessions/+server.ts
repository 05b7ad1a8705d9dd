import { z } from 'zod';
import { actorOf, body, endpoint } from '#server/edge/edge';
import { planSchema, startAccession } from '#server/intake/accession';
import { readScan } from '#server/intake/scan';
import { placeById } from '#server/places/places';
import type { RequestHandler } from './$types';

const wishSchema = z.object({
  scanId: z.uuid(),
  positions: z.array(z.number().int().min(0)).min(1, 'nothing is chosen').max(100_000),
  placeId: z.uuid(),
  title: z.string().trim().min(1).max(200),
  plan: planSchema,
});

/** Bring the chosen files of a scan in. */
export const POST: RequestHandler = endpoint(async (event) => {
  const { db } = event.locals.house;
  const wish = await body(event, wishSchema);
  const scan = await readScan(db, wish.scanId);
  const chosen = new Set(wish.positions);
  return startAccession(db, {
    title: wish.title,
    source: scan.source,
    root: scan.root,
    mode: 'copy',
    place: await placeById(db, wish.placeId),
    plan: wish.plan,
    files: scan.files
      .filter((file) => chosen.has(file.position))
      .map(({ path, size }) => ({ path, size })),
    actorId: actorOf(event).id,
  });
});
