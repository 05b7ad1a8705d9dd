import { fail, redirect } from '@sveltejs/kit';
import setCookie from 'set-cookie-parser';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { countTry, forgetTries, slowTries } from '#server/auth/tries';
import { hasPeople } from '#server/auth/people';
import { isBehindTls } from '#server/house/settings';
import type { Actions, PageServerLoad } from './$types';

const credentialsSchema = z.object({
  email: z.string().trim().toLowerCase().min(1).max(200),
  password: z.string().min(1).max(200),
});

/** Only addresses of this site. */
const within = (to: string | null): string => (to && /^\/(?![/\\])/.test(to) ? to : '/catalogue');

export const load: PageServerLoad = async ({ locals, url }) => {
  if (locals.actor) redirect(303, within(url.searchParams.get('to')));
  if (!(await hasPeople(locals.house.db))) redirect(303, '/welcome');
};

export const actions: Actions = {
  default: async ({ request, locals, cookies, url, getClientAddress }) => {
    const form = Object.fromEntries(await request.formData());
    const email = String(form['email'] ?? '');
    const parsed = credentialsSchema.safeParse(form);
    if (!parsed.success)
      return fail(400, { email, wrong: 'E-mail address and password are needed.' });
    const { db } = locals.house;
    const address = getClientAddress();
    try {
      await slowTries(db, parsed.data.email, address);
    } catch (error) {
      if (error instanceof ArchiveError) return fail(error.status, { email, wrong: error.message });
      throw error;
    }
    let answer: Response;
    try {
      answer = await locals.auth.api.signInEmail({
        body: parsed.data,
        headers: request.headers,
        asResponse: true,
      });
    } catch {
      answer = new Response(null, { status: 401 });
    }
    if (!answer.ok) {
      await countTry(db, parsed.data.email, address);
      return fail(401, { email, wrong: 'This address and this password do not go together.' });
    }
    await forgetTries(db, parsed.data.email);
    for (const { name, value, maxAge } of setCookie(answer.headers.getSetCookie(), {
      decodeValues: true,
    }))
      cookies.set(name, value, {
        path: '/',
        httpOnly: true,
        sameSite: 'lax',
        secure: isBehindTls(locals.house.settings),
        ...(maxAge === undefined ? {} : { maxAge }),
      });
    redirect(303, within(url.searchParams.get('to')));
  },
};
