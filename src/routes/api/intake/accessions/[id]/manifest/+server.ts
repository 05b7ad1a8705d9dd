import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { checked, endpoint, wholeAsked } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { splitPath } from '#server/files/paths';
import { report } from '#server/intake/report/report';

const wishSchema = z.object({ at: wholeAsked.min(0).default(0) });

/** One of the accession's ASC MHL manifests, to be saved. */
export const GET = endpoint({ query: wishSchema }, async ({ locals, params, request }, { at }) => {
  const { manifests } = await report(locals.house.db, checked(z.uuid(), params['id']));
  const path = manifests[at];
  if (!path) throw new ArchiveError('not-found', 'This accession has no such manifest.');
  return sendFile(request, path, { type: 'application/xml', saveAs: splitPath(path).name });
});
