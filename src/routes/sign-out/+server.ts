import { redirect } from '@sveltejs/kit';
import type { RequestHandler } from './$types';

export const POST: RequestHandler = async ({ locals, cookies }) => {
  if (locals.sessionToken)
    await locals.house.db.deleteFrom('session').where('token', '=', locals.sessionToken).execute();
  for (const { name } of cookies.getAll())
    if (name.includes('mindful.')) cookies.delete(name, { path: '/' });
  redirect(303, '/sign-in');
};
