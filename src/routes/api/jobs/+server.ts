import { endpoint } from '#server/edge/edge';
import { underway } from '#server/jobs/queue';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(({ locals }) => underway(locals.house.db));
