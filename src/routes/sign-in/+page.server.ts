import { fail, redirect } from '@sveltejs/kit';
import setCookie from 'set-cookie-parser';
import { z } from 'zod';
import { DEVICE_COOKIE, DEVICE_DAYS, knownDevice, rememberDevice } from '#server/auth/devices';
import { hasPeople } from '#server/auth/people';
import { beginTry, forgetTries, type Trying } from '#server/auth/tries';
import { openSession } from '#server/auth/openSession';
import { formOf, known } from '#server/edge/edge';
import { addressOf, ownAddress } from '#server/edge/visitor';
import { isBehindTls } from '#server/house/settings';
import type { Actions, PageServerLoad } from './$types';

const credentialsSchema = z.object({
  email: z.string().trim().toLowerCase().min(1).max(200),
  password: z.string().min(1).max(200),
});
const HOME = '/catalogue';
const WRONG = 'This address and this password do not go together.';

export const load: PageServerLoad = async ({ locals, url }) => {
  if (locals.actor) redirect(303, ownAddress(url.searchParams.get('to'), HOME));
  if (!(await hasPeople(locals.house.db))) redirect(303, '/welcome');
};

export const actions: Actions = {
  default: async (event) => {
    const { locals, cookies, url } = event;
    const form = await formOf(event);
    const email = form['email'] ?? '';
    const parsed = credentialsSchema.safeParse(form);
    if (!parsed.success)
      return fail(400, { email, wrong: 'E-mail address and password are needed.' });
    const { db, settings } = locals.house;
    const token = cookies.get(DEVICE_COOKIE);
    const trying: Trying = {
      what: 'sign-in',
      account: parsed.data.email,
      address: addressOf(event),
      device: await knownDevice(db, parsed.data.email, token),
    };
    try {
      await beginTry(db, trying);
    } catch (error) {
      const told = known(error);
      if (told) return fail(told.status, { email, wrong: told.message });
      throw error;
    }
    const answer = await openSession(
      locals.auth,
      parsed.data,
      event.request.headers,
      addressOf(event),
    );
    if (!answer) return fail(401, { email, wrong: WRONG });
    await forgetTries(db, trying);
    const { user } = (await answer.json()) as { user: { id: string } };
    const person = await db
      .selectFrom('person')
      .select('shutOutAt')
      .where('id', '=', user.id)
      .executeTakeFirstOrThrow();
    if (person.shutOutAt) {
      await db.deleteFrom('session').where('personId', '=', user.id).execute();
      return fail(403, {
        email,
        wrong: 'This account is shut out. A keeper can let you in again.',
      });
    }
    const kept = {
      path: '/',
      httpOnly: true,
      sameSite: 'lax',
      secure: isBehindTls(settings),
    } as const;
    const parsedCookies = setCookie(answer.headers.getSetCookie(), { decodeValues: true });
    for (const { name, value, maxAge } of parsedCookies)
      cookies.set(name, value, { ...kept, ...(maxAge === undefined ? {} : { maxAge }) });
    const device = await rememberDevice(db, user.id, token);
    cookies.set(DEVICE_COOKIE, device, { ...kept, maxAge: DEVICE_DAYS * 86_400 });
    redirect(303, ownAddress(url.searchParams.get('to'), HOME));
  },
};
