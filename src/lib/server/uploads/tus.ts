import { open } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { z } from 'zod';
import { sentenceOf } from '#core/errors';
import { makeFolder, removeFile } from '../files/disk';
import type { House } from '../house/house';
import { parcelById, putIntoParcel } from './parcels';

/** tus 1.0.0: resumable uploads, mounted as an endpoint so that every request passes the same doors. */
const VERSION = '1.0.0';
const PATH = '/api/uploads';
/** Larger than any single clip a team of ours makes. */
const LARGEST = 2 * 1024 ** 4;
/** An upload that nobody goes on with is forgotten. */
const KEPT_MS = 14 * 86_400_000;

const metadataSchema = z.object({
  parcel: z.uuid(),
  /** File name, or path below the folder that was dropped. */
  path: z.string().min(1).max(8000),
});

const metadataOf = (upload: Upload) => metadataSchema.safeParse(upload.metadata);

async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

const servers = new WeakMap<House, Promise<Server>>();

async function makeServer(house: House): Promise<Server> {
  const directory = join(house.rooms.uploads, '.tus');
  await makeFolder(directory);
  const datastore = new FileStore({ directory, expirationPeriodInMilliseconds: KEPT_MS });
  return new Server({
    path: PATH,
    datastore,
    maxSize: LARGEST,
    relativeLocation: true,
    respectForwardedHeaders: false,
    async onUploadCreate(_request, upload) {
      const metadata = metadataOf(upload);
      if (!metadata.success)
        throw { status_code: 400, body: 'An upload names its parcel and its path.\n' };
      await parcelById(house, metadata.data.parcel).catch((error: unknown) => {
        throw { status_code: 404, body: `${sentenceOf(error)}\n` };
      });
      return {};
    },
    async onUploadFinish(_request, upload) {
      const { parcel, path } = metadataSchema.parse(upload.metadata);
      const arrived = join(directory, upload.id);
      await syncFile(arrived);
      await putIntoParcel(house.rooms.uploads, parcel, path, arrived);
      await removeFile(`${arrived}.json`);
      return {};
    },
  });
}

/** Answer a tus request. */
export async function answerTus(house: House, request: Request): Promise<Response> {
  const told = request.headers.get('tus-resumable');
  // "If the version specified by the Client is not supported by the Server, it MUST respond with the 412
  // Precondition Failed status and MUST include the Tus-Version header." (tus 1.0.0)
  if (request.method !== 'OPTIONS' && told !== VERSION)
    return new Response(null, { status: 412, headers: { 'tus-version': VERSION } });
  // "All PATCH requests MUST use Content-Type: application/offset+octet-stream, otherwise the server SHOULD
  // return a 415 Unsupported Media Type status."
  const type = request.headers.get('content-type');
  if (request.method === 'PATCH' && type !== 'application/offset+octet-stream')
    return new Response(null, { status: 415, headers: { 'tus-resumable': VERSION } });
  let server = servers.get(house);
  if (!server) servers.set(house, (server = makeServer(house)));
  return (await server).handleWeb(request);
}
