import { fail, redirect } from '@sveltejs/kit';
import { ArchiveError } from '#core/errors';
import { addFirstKeeper, hasPeople, newPersonSchema } from '#server/auth/people';
import { formOf } from '#server/edge/edge';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => {
  if (await hasPeople(locals.house.db)) redirect(303, '/sign-in');
};

/** The first visit makes the first keeper; after that this door is gone. */
export const actions: Actions = {
  default: async (event) => {
    const { locals } = event;
    const form = await formOf(event);
    const given = { name: form['name'] ?? '', email: form['email'] ?? '' };
    const parsed = newPersonSchema.omit({ role: true }).safeParse(form);
    if (!parsed.success)
      return fail(400, { ...given, wrong: `${parsed.error.issues[0]!.message}.` });
    try {
      await addFirstKeeper(locals.house.db, parsed.data);
    } catch (error) {
      if (error instanceof ArchiveError)
        return fail(error.status, { ...given, wrong: error.message });
      throw error;
    }
    redirect(303, '/sign-in');
  },
};
