import { fail } from '@sveltejs/kit';
import { z } from 'zod';
import type { ApiScope } from '#core/api/shapes';
import {
  apiTokensOf,
  makeApiToken,
  revokeApiToken,
  revokeApiTokens,
  TOKEN_DAYS,
} from '#server/auth/apiTokens';
import { DEVICE_COOKIE, forgetOtherDevices } from '#server/auth/devices';
import { endOtherSessions, endSession, SHORTEST_PASSWORD, sessionsOf } from '#server/auth/people';
import { beginTry, forgetTries, type Trying } from '#server/auth/tries';
import { actorOf, formOf, known } from '#server/edge/edge';
import { addressOf } from '#server/edge/visitor';
import type { Actions, PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ locals }) => ({
  sessions: await sessionsOf(locals.house.db, actorOf({ locals }).id, locals.sessionId),
  tokens: await apiTokensOf(locals.house.db, actorOf({ locals }).id),
});

export const actions: Actions = {
  token: async (event) => {
    const { name = '', describe, days } = await formOf(event);
    if (!name.trim() || name.length > 100)
      return fail(400, { wrong: 'A token is named after what uses it, in a hundred characters.' });
    const scopes: ApiScope[] = describe ? ['read', 'describe'] : ['read'];
    const lasts = TOKEN_DAYS.find((one) => String(one) === days);
    if (!lasts) return fail(400, { wrong: 'A token lasts 30, 90 or 365 days.' });
    try {
      const { id } = actorOf(event);
      return {
        token: await makeApiToken(event.locals.house.db, id, name.trim(), scopes, lasts),
      };
    } catch (error) {
      const told = known(error);
      if (told) return fail(told.status, { wrong: told.message });
      throw error;
    }
  },
  revokeToken: async (event) => {
    const { id } = await formOf(event);
    if (!z.uuid().safeParse(id).success) return fail(400, { wrong: 'This names no token.' });
    await revokeApiToken(event.locals.house.db, actorOf(event).id, id!);
  },
  revoke: async (event) => {
    const { id } = await formOf(event);
    if (!z.uuid().safeParse(id).success) return fail(400, { wrong: 'This names no session.' });
    await endSession(event.locals.house.db, actorOf(event).id, id!);
  },
  password: async (event) => {
    const { locals, request, cookies } = event;
    const { db } = locals.house;
    const { current = '', next = '', tokens } = await formOf(event);
    if (next.length < SHORTEST_PASSWORD || next.length > 200)
      return fail(400, { wrong: `A password has at least ${SHORTEST_PASSWORD} characters.` });
    const { id } = actorOf(event);
    const trying: Trying = { what: 'password', account: id, address: addressOf(event) };
    try {
      await beginTry(db, trying);
    } catch (error) {
      const told = known(error);
      if (told) return fail(told.status, { wrong: told.message });
      throw error;
    }
    try {
      await locals.auth.api.changePassword({
        body: { currentPassword: current, newPassword: next },
        headers: request.headers,
      });
    } catch {
      return fail(400, { wrong: 'The present password is not this one.' });
    }
    await forgetTries(db, trying);
    await endOtherSessions(db, id, locals.sessionId);
    if (tokens) await revokeApiTokens(db, id);
    await forgetOtherDevices(db, id, cookies.get(DEVICE_COOKIE));
    return { changed: true };
  },
};
