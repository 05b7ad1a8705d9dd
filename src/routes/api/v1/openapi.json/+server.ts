import { openApi } from '#core/api/shapes';
import { endpoint } from '#server/edge/edge';
import { VERSION } from '#server/house/version';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = endpoint(async () => openApi(VERSION));
