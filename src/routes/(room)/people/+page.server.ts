import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { ROLES } from '#core/people/roles';
import { addPerson, letIn, newPersonSchema, shutOut } from '#server/auth/people';
import { actorOf, formOf, known } from '#server/edge/edge';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => ({
  people: await locals.house.db
    .selectFrom('person')
    .select(['id', 'name', 'email', 'role', 'shutOutAt'])
    .orderBy('name')
    .execute(),
});

const roleSchema = z.object({ id: z.uuid(), role: z.enum(ROLES) });
const personSchema = z.object({ id: z.uuid() });

/** What went wrong in words, for the form. */
async function told(run: () => Promise<void>) {
  try {
    await run();
    return undefined;
  } catch (error) {
    const refusal = known(error);
    if (refusal) return fail(refusal.status, { wrong: refusal.message });
    throw error;
  }
}

export const actions: Actions = {
  add: async (event) => {
    const parsed = newPersonSchema.safeParse(await formOf(event));
    if (!parsed.success) return fail(400, { wrong: `${parsed.error.issues[0]!.message}.` });
    return told(async () => void (await addPerson(event.locals.house.db, parsed.data)));
  },
  role: async (event) => {
    const parsed = roleSchema.safeParse(await formOf(event));
    if (!parsed.success) return fail(400, { wrong: 'This names no role.' });
    if (parsed.data.id === actorOf(event).id)
      return fail(400, {
        wrong: 'Nobody changes their own role: an archive must not lose its keeper.',
      });
    await event.locals.house.db
      .updateTable('person')
      .set({ role: parsed.data.role })
      .where('id', '=', parsed.data.id)
      .execute();
    return undefined;
  },
  shutOut: async (event) => {
    const parsed = personSchema.safeParse(await formOf(event));
    if (!parsed.success) return fail(400, { wrong: 'This names nobody.' });
    return told(() => shutOut(event.locals.house.db, actorOf(event).id, parsed.data.id));
  },
  letIn: async (event) => {
    const parsed = personSchema.safeParse(await formOf(event));
    if (!parsed.success) return fail(400, { wrong: 'This names nobody.' });
    return told(() => letIn(event.locals.house.db, parsed.data.id));
  },
};
