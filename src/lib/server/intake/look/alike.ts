import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import { likenessFinder } from '#core/likeness/finder';
import type { Alike } from '#core/likeness/alike';
import { isThere } from '../../files/disk';
import type { House } from '../../house/house';
import { archiveLooks, lookOfRow, looksOf, nearInArchive } from '../../likeness/likeness';
import { previewFile } from './scan';

/** A file of a source like more than this many others is told of the nearest. */
const MOST_ALIKE = 12;

interface Looked {
  position: number;
  contentHash: string | null;
  essenceHash: string | null;
  heldItemId: string | null;
  likeness: string | null;
  signature: Buffer | null;
}

/** For each file the first of the source with the same bytes or the same picture data. */
function twinsWithin(files: Looked[]): Map<number, number> {
  const first = new Map<string, number>();
  const twins = new Map<number, number>();
  for (const { position, contentHash, essenceHash } of files) {
    const prints = [contentHash, essenceHash].filter((print) => print !== null);
    const known = prints.map((print) => first.get(print)).find((at) => at !== undefined);
    if (known !== undefined) twins.set(position, known);
    for (const print of prints) if (!first.has(print)) first.set(print, known ?? position);
  }
  return twins;
}

/** Find twins and lookalikes of every file of a scan, within it and in the archive; before anything is copied. */
export async function compareScan(house: House, scanId: string): Promise<void> {
  const files: Looked[] = await house.db
    .selectFrom('scanFile')
    .select(['position', 'contentHash', 'essenceHash', 'heldItemId', 'likeness', 'signature'])
    .where('scanId', '=', scanId)
    .where('lookedAt', '=', true)
    .orderBy('position')
    .execute();
  const twins = twinsWithin(files);
  const archive = await archiveLooks(house);
  const own = likenessFinder();
  for (const { position, likeness, signature } of files)
    if (likeness) own.add(lookOfRow({ likeness, signature }), position);
  const twinOf = (position: number): number => twins.get(position) ?? position;
  const groups = new Map<number, number[]>();
  for (const { position } of files) {
    const group = groups.get(twinOf(position));
    if (group) group.push(position);
    else groups.set(twinOf(position), [position]);
  }
  for (const { position, heldItemId, likeness } of files) {
    const alike: Alike[] = [];
    if (likeness) {
      const picture = previewFile(house, scanId, position);
      const looks = (await isThere(picture)) ? await looksOf(sharp(await readFile(picture))) : null;
      for (const { id, number, distance } of looks
        ? await nearInArchive(house, archive, looks.seeker)
        : [])
        if (id !== heldItemId)
          alike.push({ kind: 'lookalike', itemId: id, number, position: null, distance });
      for (const { id, distance } of looks ? own.near(looks.seeker) : [])
        if (twinOf(id) !== twinOf(position))
          alike.push({ kind: 'lookalike', itemId: null, number: null, position: id, distance });
    }
    for (const other of groups.get(twinOf(position))!)
      if (other !== position)
        alike.unshift({ kind: 'twin', itemId: null, number: null, position: other, distance: 0 });
    await house.db
      .updateTable('scanFile')
      .set({
        twinPosition: twins.get(position) ?? null,
        alike: JSON.stringify(alike.slice(0, MOST_ALIKE)),
      })
      .where('scanId', '=', scanId)
      .where('position', '=', position)
      .execute();
  }
  await house.db.updateTable('scan').set({ alikeDone: true }).where('id', '=', scanId).execute();
}
