import { describeBody } from '#core/api/shapes';
import { parseNumber } from '#core/catalogue/number';
import { ArchiveError } from '#core/errors';
import { ALL_FIELDS } from '#core/fields/registry';
import { can } from '#core/people/roles';
import { rowsOf } from '#server/catalogue/rows';
import { itemByNumber } from '#server/catalogue/show';
import { actorOf, endpoint } from '#server/edge/edge';
import { changeRecords, readRecords } from '#server/records/records';
import { asSeen } from '#server/sight/seen';

const KEYS = ALL_FIELDS.filter(({ type }) => type !== 'words').map(({ key }) => key);

const numberOf = (text: string): string => {
  if (!parseNumber(text)) throw new ArchiveError('not-found', `“${text}” is no catalogue number.`);
  return text;
};

export const GET = endpoint(async (event) => {
  const { db } = event.locals.house;
  const number = numberOf(event.params['number'] ?? '');
  const id = await itemByNumber(db, actorOf(event), number);
  const [row] = await rowsOf(db, actorOf(event), [id], KEYS);
  if (!row) throw new ArchiveError('not-found', `There is no item ${number}.`);
  const [record] = await readRecords(db, [row.id]);
  return { id: row.id, version: record!.version, values: row.values };
});

export const PATCH = endpoint({ body: describeBody }, async (event, { change, version }) => {
  const { db } = event.locals.house;
  const actor = actorOf(event);
  if (!can(actor.role, 'describe'))
    throw new ArchiveError('not-allowed', 'Your role does not describe.');
  const id = await itemByNumber(db, actor, numberOf(event.params['number'] ?? ''));
  const done = await changeRecords(
    db,
    actor.id,
    asSeen([id]),
    change,
    version === undefined ? undefined : { versions: { [id]: version } },
  );
  return { changed: done?.changed ?? 0, operation: done?.operationId ?? null };
});
