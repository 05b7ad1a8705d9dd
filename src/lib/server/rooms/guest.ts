import type { Cookies, RequestEvent } from '@sveltejs/kit';
import { isBehindTls } from '../house/settings';
import { roomOfToken, visit, type OpenRoom } from './rooms';

const COOKIE = 'mindful_guest';
const YEAR_S = 365 * 24 * 3600;

/** The room of an address and the guest's visit; every guest address begins here. @throws ArchiveError room-closed */
export async function enterRoom(
  event: RequestEvent & { cookies: Cookies },
): Promise<{ room: OpenRoom; visitId: string }> {
  const { db } = event.locals.house;
  const token = event.params['token'] ?? '';
  const room = await roomOfToken(db, token);
  const known = event.cookies.get(COOKIE);
  const visitId = await visit(db, room.id, known);
  if (visitId !== known)
    event.cookies.set(COOKIE, visitId, {
      path: `/r/${token}`,
      httpOnly: true,
      sameSite: 'lax',
      secure: isBehindTls(event.locals.house.settings),
      maxAge: YEAR_S,
    });
  return { room, visitId };
}
