import { redirect } from '@sveltejs/kit';
import { endSession } from '#server/auth/people';
import { isBehindTls } from '#server/house/settings';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ locals, cookies }) => {
  const { actor, house, sessionId } = locals;
  if (actor) await endSession(house.db, actor.id, sessionId);
  for (const { name } of cookies.getAll())
    if (name.includes('mindful.'))
      cookies.delete(name, { path: '/', secure: isBehindTls(house.settings) });
  redirect(303, '/sign-in');
};
