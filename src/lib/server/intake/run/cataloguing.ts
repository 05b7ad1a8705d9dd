import type { BigIntStats } from 'node:fs';
import { sql, type Transaction } from 'kysely';
import { ArchiveError } from '#core/errors';
import { READING } from '#core/records/reading';
import { formatNumber } from '#core/catalogue/number';
import { FIELD_KEYS } from '#core/records/fields';
import { toldOf } from '#core/records/reconcile';
import { isBlank } from '#core/records/takeOver';
import type { Database } from '../../db/schema';
import type { FileFacts } from '#core/intake/facts';
import { factsOf } from '../../files/disk';
import { hashEssence, hashFile } from '../../files/hash';
import { pathOf, splitPath } from '../../files/paths';
import { insertFile, isKnownName } from '../../files/rows';
import type { House } from '../../house/house';
import { newId } from '../../house/ids';
import { enqueue } from '../../jobs/queue';
import { notifyItems } from '../../live/notify';
import { ensureFolder } from '../../places/folderRows';
import { enqueueWrites, refreshWords } from '../../records/records';
import { storeValues } from '../../records/store';
import { clockOf } from '../plan/clocks';
import type { Entry, Intake } from '../plan/entries';
import { catalogueParts } from './parts';
import { isRenamed, plannedRecord } from './planned';
import { placeSidecar } from './sidecar';

async function factsOfPlaced(path: string): Promise<BigIntStats> {
  const facts = await factsOf(path);
  if (!facts) throw new ArchiveError('not-found', `“${path}” vanished while it was brought in.`);
  return facts;
}

/** Item, file, record and the work that follows, in one transaction: it is there whole or not at all. */
export async function catalogue(house: House, intake: Intake, entry: Entry): Promise<void> {
  const facts = entry.facts!;
  const path = pathOf(intake.place, entry.folder!, entry.name!);
  const placed = await factsOfPlaced(path);
  const essenceHash =
    entry.essenceHash === undefined ? await hashEssence(path, facts.mediaType) : entry.essenceHash;
  const sidecar = await placeSidecar(intake, entry);
  const beside = sidecar && {
    name: sidecar.name,
    facts: await factsOfPlaced(sidecar.path),
    contentHash: await hashFile(sidecar.path),
  };
  const pictureKey = `${essenceHash ?? entry.contentHash}-${facts.orientation}`;
  const itemId = newId();
  await house.db.transaction().execute(async (db) => {
    const folderId = await ensureFolder(db, intake.place.id, entry.folder!);
    await insertItem(db, intake, entry, itemId);
    const common = { itemId, placeId: intake.place.id, folderId };
    const contentHash = entry.placed?.contentHash ?? entry.contentHash!;
    await insertFile(
      db,
      { ...common, name: entry.name!, role: 'original', contentHash, essenceHash, pictureKey },
      placed,
    );
    // One sidecar may stand for two files of one stem; it belongs to the first.
    if (beside && !(await isKnownName(db, folderId, beside.name)))
      await insertFile(
        db,
        { ...common, name: beside.name, role: 'sidecar', contentHash: beside.contentHash },
        beside.facts,
      );
    await catalogueParts(db, intake, entry, itemId);
    await describe(db, intake, entry, itemId);
    await refreshWords(db, [itemId]);
    if (entry.decision === 'version')
      await db
        .insertInto('lineage')
        .values({ itemId, kind: 'version of', ofId: entry.versionOf!, createdBy: intake.createdBy })
        .execute();
    const after = {
      state: 'done',
      itemId,
      name: entry.name,
      sourceState: intake.mode === 'move' ? 'due' : 'kept',
      secondState: intake.plan.secondCopyId ? 'due' : 'none',
      clockShift: clockOf(intake.plan, facts)?.shift ?? null,
    } as const;
    await db.updateTable('accessionEntry').set(after).where('id', '=', entry.id).execute();
    await enqueue(db, [
      {
        task: 'pictures',
        title: 'Making pictures',
        subject: itemId,
        parentId: intake.jobId,
        itemId,
        createdBy: intake.createdBy,
      },
    ]);
    await notifyItems(db, [itemId]);
    Object.assign(entry, after);
  });
}

async function insertItem(
  db: Transaction<Database>,
  intake: Intake,
  entry: Entry,
  itemId: string,
): Promise<void> {
  const facts = entry.facts!;
  // Numbered by its place in the source, whatever order the work ends in: a kill must not change it.
  const number = formatNumber({
    year: intake.year,
    accession: intake.number,
    item: entry.position + 1,
  });
  await db
    .insertInto('item')
    .values({
      id: itemId,
      number,
      accessionId: intake.id,
      kind: entry.parts ? 'bundle' : facts.kind,
      mediaType: facts.mediaType,
      format: facts.format,
      originalName: splitPath(entry.sourcePath).name,
      version: 0,
      provenance: '{}',
      reading: READING,
      technical: JSON.stringify({
        ...facts.technical,
        ...(clockOf(intake.plan, facts) ? { clockSaid: facts.record.taken!.from } : {}),
      }),
      camera: facts.technical.camera ?? '',
      latitude: null,
      longitude: null,
      width: facts.width,
      height: facts.height,
      duration: null,
      noPicture: null,
      stageId: null,
      takenEdtf: null,
      takenFrom: null,
      takenTo: null,
      takenOffset: null,
    })
    .execute();
}

/**
 * The record as the file tells it, then what the plan adds; only the latter waits to be written, unless it was
 * written into the copy already.
 */
async function describe(
  db: Transaction<Database>,
  intake: Intake,
  entry: Entry,
  itemId: string,
): Promise<void> {
  const facts: FileFacts = entry.facts!;
  const own = FIELD_KEYS.filter((key) => !isBlank(facts.record[key]));
  const at = new Date();
  const fromFile = { source: 'file', by: null, at } as const;
  await storeValues(db, [{ itemId, values: facts.record, changed: own }], fromFile);
  const { values, added } = await plannedRecord(db, intake, entry);
  await db
    .updateTable('file')
    .set({ told: JSON.stringify(entry.placed?.told ?? toldOf(facts.record)) })
    .where('itemId', '=', itemId)
    .where('role', '=', 'original')
    .execute();
  const mustRemember = intake.mode !== 'in-place' && isRenamed(entry);
  if (added.length === 0 && !mustRemember) return;
  const fromPlan = { source: 'intake', by: intake.createdBy, at } as const;
  await storeValues(db, [{ itemId, values, changed: added }], fromPlan);
  if (entry.placed)
    await sql`update file f set written_version = i.version from item i
      where i.id = ${itemId}::uuid and f.item_id = i.id and f.role = 'original'`.execute(db);
  else if (!intake.place.handsOff)
    await enqueueWrites(db, [itemId], {
      actorId: intake.createdBy,
      operationId: null,
      title: 'Writing records into files',
    });
}
