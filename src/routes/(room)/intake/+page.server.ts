import { accessions } from '#server/intake/report';
import { pluggedIn } from '#server/intake/sources';
import { readScan } from '#server/intake/scan';
import { actorOf, page } from '#server/edge/edge';
import { allPlaces } from '#server/places/places';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:intake');
    const { house } = locals;
    const actor = actorOf({ locals });
    const scanId = url.searchParams.get('scan');
    const [devices, past, places, plan] = await Promise.all([
      pluggedIn(house),
      accessions(house.db),
      allPlaces(house.db),
      house.db
        .selectFrom('remembered')
        .select('value')
        .where('personId', '=', actor.id)
        .where('key', '=', 'intake-plan')
        .executeTakeFirst(),
    ]);
    const scan = scanId && /^[0-9a-f-]{36}$/.test(scanId) ? await readScan(house.db, scanId) : null;
    return {
      devices,
      past,
      places,
      scan,
      remembered: (plan?.value ?? null) as Record<string, unknown> | null,
    };
  });
