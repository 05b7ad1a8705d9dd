import { Upload } from 'tus-js-client';
import { api } from '../common/api';
import type { Gathered } from './gather';

const ENDPOINT = '/api/uploads';
/** Sent in one request: what a broken connection costs at most. */
const PIECE = 16 << 20;
const AT_ONCE = 2;
const RETRIES = [0, 1000, 3000, 5000, 10_000];
const KEY = 'mindful-parcel';

export type Wish = 'version' | 'both' | 'skip';

export interface HeldMatch {
  path: string;
  itemId: string;
  number: string;
  place: string;
  sameSize: boolean;
}

export interface Sending {
  path: string;
  file: File;
  /** bytes that the server has */
  sent: number;
  state: 'waiting' | 'sending' | 'done' | 'skipped' | 'failed';
  reason: string;
  held: HeldMatch | null;
  wish: Wish;
}

/** Uploads go on while one walks through the archive; a reload goes on with the same files. */
class UploadQueue {
  parcel = $state('');
  title = $state('');
  list = $state<Sending[]>([]);
  paused = $state(false);
  started = $state(false);
  private running = new Map<string, Upload>();

  get total(): number {
    return this.list.reduce((sum, { file, wish }) => sum + (wish === 'skip' ? 0 : file.size), 0);
  }
  get sent(): number {
    return this.list.reduce((sum, { sent }) => sum + sent, 0);
  }
  get busy(): boolean {
    return (
      this.started && this.list.some(({ state }) => state === 'waiting' || state === 'sending')
    );
  }
  get ready(): boolean {
    return this.started && !this.busy && this.list.some(({ state }) => state === 'done');
  }

  /** A parcel that a reload broke off, if there is one. */
  static broken(): { id: string; title: string } | null {
    try {
      return JSON.parse(localStorage.getItem(KEY) ?? 'null') as {
        id: string;
        title: string;
      } | null;
    } catch {
      return null;
    }
  }

  /** Ask what is held under these names; nothing is sent yet. */
  async prepare(
    gathered: Gathered[],
    title: string,
    kind: 'upload' | 'sheet' = 'upload',
  ): Promise<void> {
    const files = gathered.map(({ path, file }) => ({ path, size: file.size }));
    const broken = kind === 'sheet' ? null : UploadQueue.broken();
    const there = broken
      ? await api.get(`/api/intake/parcels/${broken.id}`).catch(() => null)
      : null;
    const made = await api.post('/api/intake/parcels', {
      title,
      files: kind === 'sheet' ? [] : files,
      kind,
    });
    if (there) void api.delete(`/api/intake/parcels/${made.id}`);
    this.parcel = there?.id ?? made.id;
    this.title = title;
    this.started = false;
    this.paused = false;
    const heldBy = new Map(made.held.map((held) => [held.path, held]));
    const arrived = new Set(there?.files.map(({ path, size }) => `${size} ${path}`));
    this.list = gathered.map(({ path, file }) => {
      const held = heldBy.get(path) ?? null;
      const isThere = arrived.has(`${file.size} ${path}`);
      return {
        path,
        file,
        sent: isThere ? file.size : 0,
        state: isThere ? 'done' : 'waiting',
        reason: '',
        held,
        wish: held?.sameSize ? 'skip' : 'both',
      };
    });
  }

  start(): void {
    this.started = true;
    this.paused = false;
    localStorage.setItem(KEY, JSON.stringify({ id: this.parcel, title: this.title }));
    for (const one of this.list)
      if (one.wish === 'skip' && one.state === 'waiting') one.state = 'skipped';
    this.next();
  }

  pause(): void {
    this.paused = true;
    for (const [path, upload] of this.running) {
      void upload.abort();
      const one = this.list.find((other) => other.path === path);
      if (one) one.state = 'waiting';
    }
    this.running.clear();
  }

  retry(): void {
    for (const one of this.list) if (one.state === 'failed') one.state = 'waiting';
    this.paused = false;
    this.next();
  }

  forget(): void {
    this.pause();
    this.list = [];
    this.started = false;
    localStorage.removeItem(KEY);
  }

  private next(): void {
    while (!this.paused && this.running.size < AT_ONCE) {
      const one = this.list.find(({ state }) => state === 'waiting');
      if (!one) return;
      void this.send(one);
    }
  }

  private async send(one: Sending): Promise<void> {
    one.state = 'sending';
    const done = (state: Sending['state'], reason = ''): void => {
      this.running.delete(one.path);
      Object.assign(one, { state, reason });
      if (!this.list.some(({ state: other }) => other === 'waiting' || other === 'sending'))
        localStorage.removeItem(KEY);
      this.next();
    };
    const upload = new Upload(one.file, {
      endpoint: ENDPOINT,
      chunkSize: PIECE,
      retryDelays: RETRIES,
      metadata: { parcel: this.parcel, path: one.path },
      removeFingerprintOnSuccess: true,
      fingerprint: (file) =>
        Promise.resolve(
          ['mindful', this.parcel, one.path, (file as File).size, (file as File).lastModified].join(
            ' ',
          ),
        ),
      onProgress: (sent) => (one.sent = sent),
      onSuccess: () => {
        one.sent = one.file.size;
        done('done');
      },
      onError: (error) => done('failed', error.message.split(',')[0] ?? 'it broke off'),
    });
    this.running.set(one.path, upload);
    const [previous] = await upload.findPreviousUploads();
    if (previous) upload.resumeFromPreviousUpload(previous);
    upload.start();
  }
}

export const uploads = new UploadQueue();
export const brokenUpload = (): { id: string; title: string } | null => UploadQueue.broken();
