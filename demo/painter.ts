import { mkdir, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parentPort } from 'node:worker_threads';
import sharp from 'sharp';
import type { Picture } from './library';
import { takePicture } from './paint/render';

/** A worker thread that paints pictures it is sent, one at a time. */
sharp.concurrency(1);

parentPort!.on('message', async ({ picture, target }: { picture: Picture; target: string }) => {
  try {
    await mkdir(dirname(target), { recursive: true });
    await writeFile(target, await takePicture(picture.scene, picture.shot));
    parentPort!.postMessage({ done: true });
  } catch (error) {
    parentPort!.postMessage({ done: false, reason: String(error) });
  }
});
