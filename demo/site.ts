import { existsSync } from 'node:fs';
import { mkdir, readdir, readFile, rename, writeFile } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import sharp from 'sharp';

/** A small simulated web site on this machine, so that a page's pictures can be listed and fetched. */
const PAGES = 8;
const TYPES: Record<string, string> = { html: 'text/html; charset=utf-8', jpg: 'image/jpeg' };

const page = (names: string[]): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>The Dunlin Gazette: kites over the flats</title></head>
<body><h1>Kites over the flats</h1><p>Pictures by readers of the Gazette, free for Saltreach Kites to use.</p>
${names.map((name, at) => `<a href="/large/${name}"><img src="/small/${name}" alt="Reader’s picture ${at + 1}"></a>`).join('\n')}
</body></html>
`;

/** Make the site once from pictures of the library. */
export async function makeSite(folder: string, pictures: string[]): Promise<void> {
  if (existsSync(join(folder, 'index.html'))) return;
  await mkdir(join(folder, 'large'), { recursive: true });
  await mkdir(join(folder, 'small'), { recursive: true });
  const names: string[] = [];
  for (const [at, picture] of pictures.slice(0, PAGES).entries()) {
    const name = `reader-${at + 1}.jpg`;
    // A crop of its own: a reader stood elsewhere.
    const { width, height } = await sharp(picture).metadata();
    const crop = sharp(picture).extract({
      left: Math.round(width * (at % 2 ? 0.3 : 0.05)),
      top: Math.round(height * 0.1),
      width: Math.round(width * 0.62),
      height: Math.round(height * 0.72),
    });
    await crop
      .clone()
      .resize(1600)
      .modulate({ saturation: 0.9 })
      .jpeg({ quality: 86 })
      .toFile(join(folder, 'large', name));
    await crop
      .clone()
      .resize(240)
      .jpeg({ quality: 70 })
      .toFile(join(folder, 'small', name));
    names.push(name);
  }
  await writeFile(join(folder, 'index.part'), page(names));
  await rename(join(folder, 'index.part'), join(folder, 'index.html'));
}

/** Serve the site on loopback. Only the files that were made are known; everything else is 404. */
export async function serveSite(folder: string, port: number): Promise<Server> {
  const known = new Map<string, string>([['/', join(folder, 'index.html')]]);
  for (const room of ['large', 'small'])
    for (const name of await readdir(join(folder, room)))
      known.set(`/${room}/${name}`, join(folder, room, name));
  const server = createServer((request, response) => {
    const path = known.get(request.url ?? '');
    const type = TYPES[path?.split('.').at(-1) ?? ''];
    if (!path || !type) {
      response.writeHead(404).end('There is nothing here.');
      return;
    }
    void readFile(path).then(
      (bytes) => response.writeHead(200, { 'content-type': type }).end(bytes),
      () => response.writeHead(500).end(),
    );
  });
  await new Promise<void>((resolve) => server.listen(port, '127.0.0.1', resolve));
  // It ends with the archive: nothing waits for it.
  server.unref();
  return server;
}
