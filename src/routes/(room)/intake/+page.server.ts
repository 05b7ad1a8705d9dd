import { actorOf, page } from '#server/edge/edge';
import { arrived, dropZoneRule } from '#server/watching/dropzone';
import { lastPlan, savedPlans } from '#server/intake/plan/plans';
import { accessions, measuredSpeed } from '#server/intake/report/accessions';
import { readScan } from '#server/intake/look/scan';
import { pluggedIn, unplugged } from '#server/intake/sources/sources';
import { parcelById } from '#server/uploads/parcels';
import { waitingParcels } from '#server/intake/report/waiting';
import { allPlaces } from '#server/places/places';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = ({ locals, url, depends }) =>
  page(async () => {
    depends('mindful:intake');
    const { house } = locals;
    const actor = actorOf({ locals });
    const scanId = url.searchParams.get('scan');
    const [devices, drawer, past, places, plans, zone, rule, waiting, speed] = await Promise.all([
      pluggedIn(house),
      unplugged(house),
      accessions(house.db),
      allPlaces(house.db),
      savedPlans(house.db),
      arrived(house),
      dropZoneRule(house),
      waitingParcels(house),
      measuredSpeed(house.db),
    ]);
    const scan = scanId && /^[0-9a-f-]{36}$/.test(scanId) ? await readScan(house.db, scanId) : null;
    return {
      devices,
      drawer,
      past,
      places,
      plans,
      // Thousands of files pass as one text: to look for dates and cycles in each costs more than all else.
      scan: scan && { ...scan, files: JSON.stringify(scan.files) },
      waiting,
      speed,
      zone: {
        path: house.folders.dropZone,
        whole: zone.whole.length,
        growing: zone.growing,
        rule: rule && { placeId: rule.placeId, mode: rule.mode },
      },
      /** The simulated site, where one runs. */
      standIn: house.settings.standIns[0] ? `http://${house.settings.standIns[0]}/` : '',
      parcelTitle:
        scan && ['upload', 'web', 'sheet'].includes(scan.source.kind)
          ? (await parcelById(house, scan.source.name).catch(() => null))?.title
          : undefined,
      lastPlan: scan ? await lastPlan(house.db, actor.id, scan.source) : null,
    };
  });
