import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import { sql } from 'kysely';
import type { House } from '#server/house/house';
import { startAccession } from '#server/intake/plan/accession';
import { filesToBring } from '#server/intake/sources/files';
import { addPlace } from '#server/places/places';

/** Looking is work too: seldom enough not to count. */
const LOOK_MS = 100;

/** Wait until all background work is done. */
export async function queueEmpty(house: House): Promise<void> {
  for (;;) {
    const { rows } = await sql<{
      open: number;
    }>`select count(*)::int as open from job where state in ('waiting', 'running')`.execute(
      house.db,
    );
    if (rows[0]!.open === 0) return;
    await new Promise((resolve) => setTimeout(resolve, LOOK_MS));
  }
}

/** Bring a folder in by copying and wait for all that follows. */
export async function bringIn(house: House, source: string, name: string): Promise<void> {
  const root = join(house.folders.holdings, name);
  await mkdir(root, { recursive: true });
  await startAccession(house, {
    title: name,
    source: { kind: 'folder', name: source },
    root: source,
    mode: 'copy',
    place: await addPlace(house, name, root),
    plan: { filing: '', naming: '{name}', terms: [] },
    files: await filesToBring(source),
    actorId: null,
  });
  await queueEmpty(house);
}
