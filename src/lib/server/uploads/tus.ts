import { AsyncLocalStorage } from 'node:async_hooks';
import { open, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { FileStore } from '@tus/file-store';
import { Server, type Upload } from '@tus/server';
import { z } from 'zod';
import { ArchiveError, sentenceOf } from '#core/errors';
import { formatBytes } from '#core/text/quantities';
import { freeIn, makeFolder, namesIn, removeFile } from '../files/disk';
import type { House } from '../house/house';
import { parcelById, parcelsOf, putIntoParcel, readParcel } from './parcels';

/** tus 1.0.0: resumable uploads, mounted as an endpoint so that every request passes the same doors. */
const VERSION = '1.0.0';
const PATH = '/api/uploads';
/** Larger than any single clip a team of ours makes. */
const LARGEST = 2 * 1024 ** 4;
/** An upload that nobody goes on with is forgotten, and so is what is known of one that arrived. */
const KEPT_MS = 14 * 86_400_000;
const SWEEP_EVERY_MS = 3_600_000;
/** Room that uploads leave on the disk for everything else. */
const SPARE = 2e9;
const ID = /^[0-9a-f]{32}$/;

const metadataSchema = z.object({
  parcel: z.uuid(),
  /** File name, or path below the folder that was dropped. */
  path: z.string().min(1).max(8000),
});
/** What we add: whose it is. */
const ownedSchema = metadataSchema.extend({ by: z.string() });
/** What is kept of an upload that arrived: a client that missed the answer asks again. */
const arrivedSchema = z.object({ size: z.number(), by: z.string() });

/** Who sends; the library's hooks are not told. */
const sending = new AsyncLocalStorage<string>();

async function syncFile(path: string): Promise<void> {
  const handle = await open(path, 'r');
  try {
    await handle.sync();
  } finally {
    await handle.close();
  }
}

interface Mounted {
  server: Server;
  store: FileStore;
  directory: string;
  /** Bytes a person has here, counted now and then. */
  held: Map<string, { bytes: number; at: number }>;
  finishing: Map<string, Promise<void>>;
  swept: number;
}

const mounted = new WeakMap<House, Promise<Mounted>>();
const refuse = (status_code: number, sentence: string) => ({ status_code, body: `${sentence}\n` });

async function uploadsIn({ directory, store }: Mounted): Promise<Upload[]> {
  const ids = (await namesIn(directory)).filter((name) => ID.test(name));
  const all = await Promise.all(ids.map((id) => store.getUpload(id).catch(() => null)));
  return all.filter((upload) => upload !== null);
}

const COUNT_EVERY_MS = 20_000;

/** Bytes a person has sent or announced and that nobody brought in. */
async function heldBy(house: House, tus: Mounted, person: string): Promise<number> {
  const known = tus.held.get(person);
  if (known && Date.now() - known.at < COUNT_EVERY_MS) return known.bytes;
  const open = (await uploadsIn(tus)).filter(({ metadata }) => metadata?.['by'] === person);
  let bytes = open.reduce((sum, { size }) => sum + (size ?? 0), 0);
  for (const id of await parcelsOf(house, person)) {
    const parcel = await readParcel(house, id).catch(() => null);
    bytes += parcel?.files.reduce((sum, { size }) => sum + size, 0) ?? 0;
  }
  tus.held.set(person, { bytes, at: Date.now() });
  return bytes;
}

/** @throws what the library answers with: the upload is not begun */
async function checkNew(house: House, tus: Mounted, upload: Upload): Promise<string> {
  const person = sending.getStore()!;
  const metadata = metadataSchema.safeParse(upload.metadata);
  if (!metadata.success) throw refuse(400, 'An upload names its parcel and its path.');
  if (upload.size === undefined) throw refuse(400, 'An upload says how large it is.');
  const parcel = await parcelById(house, metadata.data.parcel).catch((error: unknown) => {
    throw refuse(404, sentenceOf(error));
  });
  if (parcel.by !== person) throw refuse(404, 'This parcel is not yours.');
  if (upload.size > (await freeIn(house.folders.uploads)) - SPARE)
    throw refuse(507, `There is no room for ${formatBytes(upload.size)} on the server’s disk.`);
  const held = await heldBy(house, tus, person);
  if (held + upload.size > house.settings.uploadQuota)
    throw refuse(
      507,
      `Bring in or let go of what you sent first: more than ${formatBytes(house.settings.uploadQuota)} would wait.`,
    );
  tus.held.set(person, { bytes: held + upload.size, at: tus.held.get(person)!.at });
  return person;
}

async function mount(house: House): Promise<Mounted> {
  const directory = join(house.folders.uploads, '.tus');
  await makeFolder(directory);
  const store = new FileStore({ directory, expirationPeriodInMilliseconds: KEPT_MS });
  const tus: Mounted = {
    store,
    directory,
    held: new Map(),
    finishing: new Map(),
    swept: 0,
    server: new Server({
      path: PATH,
      datastore: store,
      maxSize: LARGEST,
      relativeLocation: true,
      respectForwardedHeaders: false,
      async onUploadCreate(_request, upload) {
        const by = await checkNew(house, tus, upload);
        return { metadata: { ...upload.metadata, by } };
      },
      async onIncomingRequest(_request, id) {
        const upload = await store.getUpload(id).catch(() => null);
        if (upload && upload.metadata?.['by'] !== sending.getStore())
          throw refuse(404, 'There is no such upload.');
      },
    }),
  };
  return tus;
}

const arrivedFile = ({ directory }: Mounted, id: string): string =>
  join(directory, `${id}.arrived`);

/** Put an upload that is whole into its parcel; once, however many ask. */
async function finish(house: House, tus: Mounted, id: string): Promise<void> {
  const upload = await tus.store.getUpload(id).catch(() => null);
  if (!upload || upload.offset !== upload.size) return;
  const { parcel, path, by } = ownedSchema.parse(upload.metadata);
  const file = join(tus.directory, id);
  await syncFile(file);
  await putIntoParcel(house.folders.uploads, parcel, path, file);
  await writeFile(arrivedFile(tus, id), JSON.stringify({ size: upload.size, by }));
  await removeFile(`${file}.json`);
}

async function finishOnce(house: House, tus: Mounted, id: string): Promise<void> {
  let running = tus.finishing.get(id);
  if (!running) {
    running = finish(house, tus, id).finally(() => tus.finishing.delete(id));
    tus.finishing.set(id, running);
  }
  await running;
}

/** The answer about an upload that arrived whole; null where this is none. */
async function answerArrived(
  tus: Mounted,
  request: Request,
  id: string,
  person: string,
): Promise<Response | null> {
  const text = await readFile(arrivedFile(tus, id), 'utf8').catch(() => null);
  if (text === null) return null;
  const { size, by } = arrivedSchema.parse(JSON.parse(text));
  const headers = { 'tus-resumable': VERSION, 'cache-control': 'no-store' };
  if (by !== person) return new Response(null, { status: 404, headers });
  if (request.method === 'HEAD')
    return new Response(null, {
      status: 200,
      headers: { ...headers, 'upload-offset': String(size), 'upload-length': String(size) },
    });
  if (request.method !== 'PATCH') return null;
  const isEnd = Number(request.headers.get('upload-offset')) === size;
  return new Response(null, {
    status: isEnd ? 204 : 409,
    headers: { ...headers, 'upload-offset': String(size) },
  });
}

/** Forget what nobody goes on with. */
async function sweep(tus: Mounted): Promise<void> {
  if (Date.now() - tus.swept < SWEEP_EVERY_MS) return;
  tus.swept = Date.now();
  await tus.server.cleanUpExpiredUploads();
  const old = Date.now() - KEPT_MS;
  for (const name of await namesIn(tus.directory))
    if (name.endsWith('.arrived')) {
      const path = join(tus.directory, name);
      const handle = await open(path, 'r').catch(() => null);
      const facts = await handle?.stat().finally(() => handle.close());
      if (facts && facts.mtimeMs < old) await removeFile(path);
    }
}

/** Answer a tus request of a person. */
export async function answerTus(house: House, person: string, request: Request): Promise<Response> {
  const toldVersion = request.headers.get('tus-resumable');
  // "If the version specified by the Client is not supported by the Server, it MUST respond with the 412
  // Precondition Failed status and MUST include the Tus-Version header." (tus 1.0.0)
  if (request.method !== 'OPTIONS' && toldVersion !== VERSION)
    return new Response(null, { status: 412, headers: { 'tus-version': VERSION } });
  // "All PATCH requests MUST use Content-Type: application/offset+octet-stream, otherwise the server SHOULD
  // return a 415 Unsupported Media Type status."
  const type = request.headers.get('content-type');
  if (request.method === 'PATCH' && type !== 'application/offset+octet-stream')
    return new Response(null, { status: 415, headers: { 'tus-resumable': VERSION } });
  let opening = mounted.get(house);
  if (!opening) mounted.set(house, (opening = mount(house)));
  const tus = await opening;
  const asked = new URL(request.url).pathname.split('/').at(-1) ?? '';
  if (ID.test(asked)) {
    // One that was whole when the server ended is put into its parcel now.
    if (request.method === 'HEAD') await finishOwn(house, tus, asked, person);
    const arrived = await answerArrived(tus, request, asked, person);
    if (arrived) return arrived;
  }
  if (request.method === 'POST') await sweep(tus).catch(() => undefined);
  const answer = await sending.run(person, () => tus.server.handleWeb(request));
  if (!answer.ok || !['POST', 'PATCH'].includes(request.method)) return answer;
  const id = request.method === 'PATCH' ? asked : answer.headers.get('location')?.split('/').at(-1);
  // Only now, for the library looks at the file once more before it answers.
  if (id) await finishOnce(house, tus, id);
  return answer;
}

async function finishOwn(house: House, tus: Mounted, id: string, person: string): Promise<void> {
  const upload = await tus.store.getUpload(id).catch(() => null);
  if (upload?.metadata?.['by'] !== person) return;
  await finishOnce(house, tus, id).catch((error: unknown) => {
    // Its parcel was let go of meanwhile: the client hears of it when it goes on.
    if (!(error instanceof ArchiveError)) throw error;
  });
}
