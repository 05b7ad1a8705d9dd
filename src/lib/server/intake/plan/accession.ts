import type { WishedFile } from '../sources/files';
import { sql } from 'kysely';
import { ArchiveError } from '#core/errors';
import { isInside } from '#core/holdings/grounds';
import { formatAccession } from '#core/catalogue/number';
import { planSchema, planTargets, type Mode, type Plan, type PlanWish } from '#core/intake/plan';
import { counted } from '#core/text/quantities';
import type { Source } from '#core/intake/facts';
import { checkGround } from '../../files/grounds';
import type { House } from '../../house/house';
import { newId } from '../../house/ids';
import { enqueue } from '../../jobs/queue';
import { checkPlace, placeById, type Place } from '../../places/places';

export interface NewAccession {
  title: string;
  source: Source;
  /** Absolute path text of the folder read from. */
  root: string;
  mode: Mode;
  place: Place;
  plan: PlanWish;
  /** In the order in which counters step. */
  files: WishedFile[];
  actorId: string | null;
  /** The look whose reading is used again where files are unchanged. */
  scanId?: string;
  /** A move that leaves one copy only was seen and wished. */
  singleCopy?: boolean;
}

/** Arbitrary, constant: accession numbers are given one at a time. */
const NUMBER_LOCK = 4_180_002;

const decided = (decision: WishedFile['decision']) =>
  typeof decision === 'object'
    ? { decision: 'version' as const, versionOf: decision.versionOf }
    : { decision: decision ?? ('new' as const), versionOf: null };

const overlap = (a: string, b: string): boolean => isInside(a, b) || isInside(b, a);

/** @throws ArchiveError value-refused, pattern-unclear, not-allowed, outside-place, confirm-needed */
async function checkWish(house: House, wish: NewAccession, plan: Plan): Promise<void> {
  const { place } = wish;
  const root = checkGround(house, wish.root);
  if (root !== wish.root)
    throw new ArchiveError('outside-place', `“${wish.root}” is reached by a link.`);
  checkPlace(house, place);
  if (wish.files.every(({ leftOut }) => leftOut))
    throw new ArchiveError('value-refused', 'There is nothing to bring in.');
  if (wish.mode === 'in-place') {
    if (!isInside(root, place.root))
      throw new ArchiveError('outside-place', `“${root}” is not inside the place “${place.name}”.`);
    return;
  }
  planTargets(plan, [], () => new Set());
  if (place.handsOff)
    throw new ArchiveError(
      'not-allowed',
      `“${place.name}” is hands off: nothing of ours writes there.`,
    );
  if (overlap(place.root, root))
    throw new ArchiveError(
      'value-refused',
      `“${root}” and the place “${place.name}” lie within each other; keep in place instead.`,
    );
  if (plan.secondCopyId) {
    const second = await placeById(house.db, plan.secondCopyId);
    checkPlace(house, second);
    if (second.id === place.id)
      throw new ArchiveError('value-refused', 'The second copy needs a place of its own.');
    if (second.handsOff)
      throw new ArchiveError(
        'not-allowed',
        `“${second.name}” is hands off: nothing of ours writes there.`,
      );
    if (overlap(second.root, root))
      throw new ArchiveError(
        'value-refused',
        `“${root}” and the place “${second.name}” lie within each other.`,
      );
  } else if (wish.mode === 'move' && !wish.singleCopy)
    throw new ArchiveError(
      'confirm-needed',
      `After the move there is one copy only, in “${place.root}”. Name a place for a second copy, or say that one will do.`,
    );
}

/**
 * Open an accession and put its work into the queue. Nothing is read or copied yet.
 * @throws ArchiveError value-refused, pattern-unclear, not-allowed, outside-place, confirm-needed
 */
export async function startAccession(
  house: House,
  wish: NewAccession,
): Promise<{ id: string; number: string; jobId: string }> {
  const plan = planSchema.parse(wish.plan);
  await checkWish(house, wish, plan);
  const id = newId();
  const year = new Date().getFullYear();
  return house.db.transaction().execute(async (transaction) => {
    await sql`select pg_advisory_xact_lock(${NUMBER_LOCK})`.execute(transaction);
    const { number } = await transaction
      .selectFrom('accession')
      .select(sql<number>`coalesce(max(number), 0) + 1`.as('number'))
      .where('year', '=', year)
      .executeTakeFirstOrThrow();
    await transaction
      .insertInto('accession')
      .values({
        id,
        year,
        number,
        title: wish.title,
        source: JSON.stringify(wish.source),
        plan: JSON.stringify(plan),
        root: wish.root,
        mode: wish.mode,
        placeId: wish.place.id,
        createdBy: wish.actorId,
      })
      .execute();
    const rows = wish.files.map(({ path, size, decision, given, bundle, ...file }, position) => ({
      id: newId(),
      accessionId: id,
      position,
      sourcePath: path,
      size,
      state: file.leftOut ? ('skipped' as const) : ('planned' as const),
      reason: file.leftOut ?? null,
      sourceFacts: file.facts ? JSON.stringify(file.facts) : null,
      folder: null,
      name: null,
      contentHash: null,
      itemId: null,
      bundleFolder: bundle?.folder ?? null,
      parts: bundle ? JSON.stringify(bundle.parts) : null,
      given: given && Object.keys(given).length > 0 ? JSON.stringify(given) : null,
      ...decided(decision),
    }));
    for (let at = 0; at < rows.length; at += 1000)
      await transaction
        .insertInto('accessionEntry')
        .values(rows.slice(at, at + 1000))
        .execute();
    if (wish.scanId)
      await sql`update accession_entry e set looked = s.looked from scan_file s
        where e.accession_id = ${id}::uuid and s.scan_id = ${wish.scanId}::uuid
          and s.path = e.source_path`.execute(transaction);
    const label = formatAccession(year, number);
    const coming = rows.filter(({ state }) => state === 'planned').length;
    const [jobId] = await enqueue(transaction, [
      {
        task: 'intake',
        title: `Bringing in ${counted(coming, 'file')} as ${label}`,
        subject: id,
        accessionId: id,
        createdBy: wish.actorId,
        total: coming,
        unit: 'files',
      },
    ]);
    return { id, number: label, jobId: jobId! };
  });
}
