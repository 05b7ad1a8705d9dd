import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { deedNamed } from '#core/deeds/kinds';
import { can } from '#core/people/roles';
import { actorOf, checked, endpoint } from '#server/edge/edge';
import { takeBack } from '#server/deeds/takeBack';

/** Undo asks for what the operation itself asked for. */
export const POST = endpoint(
  { body: z.object({ partly: z.boolean().default(false) }) },
  async (event, { partly }) => {
    const id = checked(z.uuid(), event.params['id']);
    const { db } = event.locals.house;
    const actor = actorOf(event);
    const operation = await db
      .selectFrom('operation')
      .select(['kind', 'summary', 'total'])
      .where('id', '=', id)
      .executeTakeFirst();
    const deed = operation && deedNamed(operation.kind);
    if (!deed) throw new ArchiveError('not-found', 'The ledger knows no such operation.');
    if (!can(actor.role, deed.undo))
      throw new ArchiveError(
        'not-allowed',
        'Your role does not open this door. A keeper can undo this.',
      );
    const taken = { id, kind: deed.name, summary: operation.summary, total: operation.total };
    return takeBack(event.locals.house, actor.id, taken, { partly });
  },
);
