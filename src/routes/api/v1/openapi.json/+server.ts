import { openApi } from '#core/api/shapes';
import { endpoint } from '#server/edge/edge';
import { VERSION } from '#server/house/version';

export const GET = endpoint(async () => openApi(VERSION));
