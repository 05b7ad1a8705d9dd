import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { checked, endpoint } from '#server/edge/edge';
import { sendFile } from '#server/edge/send';
import { splitPath } from '#server/files/paths';
import { report } from '#server/intake/report/report';

/** One of the accession's ASC MHL manifests, to be saved. */
export const GET = endpoint(async ({ locals, params, url, request }) => {
  const { manifests } = await report(locals.house.db, checked(z.uuid(), params['id']));
  const at = checked(z.coerce.number().int().min(0), url.searchParams.get('at') ?? '0');
  const path = manifests[at];
  if (!path) throw new ArchiveError('not-found', 'This accession has no such manifest.');
  return sendFile(request, path, { type: 'application/xml', saveAs: splitPath(path).name });
});
