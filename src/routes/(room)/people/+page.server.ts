import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { ROLES } from '#core/people/roles';
import { addPerson, newPersonSchema } from '#server/auth/people';
import { actorOf } from '#server/edge/edge';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => ({
  people: await locals.house.db
    .selectFrom('person')
    .select(['id', 'name', 'email', 'role'])
    .orderBy('name')
    .execute(),
});

const roleSchema = z.object({ id: z.uuid(), role: z.enum(ROLES) });

export const actions: Actions = {
  add: async ({ request, locals }) => {
    const parsed = newPersonSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!parsed.success) return fail(400, { wrong: `${parsed.error.issues[0]!.message}.` });
    try {
      await addPerson(locals.house.db, parsed.data);
    } catch (error) {
      if (error instanceof ArchiveError) return fail(error.status, { wrong: error.message });
      throw error;
    }
  },
  role: async ({ request, locals }) => {
    const parsed = roleSchema.safeParse(Object.fromEntries(await request.formData()));
    if (!parsed.success) return fail(400, { wrong: 'This names no role.' });
    if (parsed.data.id === actorOf({ locals }).id)
      return fail(400, {
        wrong: 'Nobody changes their own role: an archive must not lose its keeper.',
      });
    await locals.house.db
      .updateTable('person')
      .set({ role: parsed.data.role })
      .where('id', '=', parsed.data.id)
      .execute();
  },
};
