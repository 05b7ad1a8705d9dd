import { z } from 'zod';
import { checked, endpoint } from '#server/edge/edge';
import { report } from '#server/intake/report/report';
import { retryFailed } from '#server/intake/run/job';

/** Everything that is known of an accession. */
export const GET = endpoint(({ locals, params }) =>
  report(locals.house.db, checked(z.uuid(), params['id'])),
);

/** Try what failed once more. */
export const POST = endpoint(({ locals, params }) =>
  retryFailed(locals.house, checked(z.uuid(), params['id'])),
);
