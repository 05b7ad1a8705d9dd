import { fail } from '@sveltejs/kit';
import { SHORTEST_PASSWORD, revokeSession, sessionsOf } from '#server/auth/people';
import { actorOf } from '#server/edge/edge';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => ({
  sessions: await sessionsOf(locals.house.db, actorOf({ locals }).id, locals.sessionToken),
});

export const actions: Actions = {
  revoke: async ({ request, locals }) => {
    const id = String((await request.formData()).get('id') ?? '');
    if (!/^[0-9a-f-]{36}$/.test(id)) return fail(400, { wrong: 'This names no session.' });
    await revokeSession(locals.house.db, actorOf({ locals }).id, id);
  },
  password: async ({ request, locals }) => {
    const form = await request.formData();
    const current = String(form.get('current') ?? '');
    const next = String(form.get('next') ?? '');
    if (next.length < SHORTEST_PASSWORD)
      return fail(400, { wrong: `A password has at least ${SHORTEST_PASSWORD} characters.` });
    try {
      await locals.auth.api.changePassword({
        body: { currentPassword: current, newPassword: next },
        headers: request.headers,
      });
    } catch {
      return fail(400, { wrong: 'The present password is not this one.' });
    }
    await locals.house.db
      .deleteFrom('session')
      .where('personId', '=', actorOf({ locals }).id)
      .where('token', '<>', locals.sessionToken)
      .execute();
    return { changed: true };
  },
};
