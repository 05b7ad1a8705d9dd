import { actorOf, endpoint } from '#server/edge/edge';
import { answerTus } from '#server/uploads/tus';
import type { RequestHandler } from './$types';

/** tus: OPTIONS, POST to begin, HEAD to ask how far, PATCH to go on, DELETE to give up. */
const handle: RequestHandler = endpoint((event) =>
  answerTus(event.locals.house, actorOf(event).id, event.request),
);

export const OPTIONS = handle;
export const POST = handle;
export const HEAD = handle;
export const PATCH = handle;
export const DELETE = handle;
