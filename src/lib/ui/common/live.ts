import { isAboutAny, type ItemsMessage, type LiveMessage } from '#core/live/messages';

/** The window's one event stream. Listeners hear every message; after a break they hear "again". */
type Hear = (message: LiveMessage) => void;

const ears = new Set<Hear>();
let stream: EventSource | null = null;

/** Messages of items of the last moments, and whether the index has counted them. */
let lately: { message: ItemsMessage; at: number; isCounted: boolean }[] = [];
const REMEMBERED_MS = 10_000;
const MOST_REMEMBERED = 200;

function remember(message: LiveMessage): void {
  const now = Date.now();
  lately = lately.filter(({ at }) => now - at < REMEMBERED_MS).slice(-MOST_REMEMBERED);
  if (message.about === 'items') lately.push({ message, at: now, isCounted: false });
  if (message.about === 'counted')
    for (const one of lately) one.isCounted ||= isAboutAny(message, one.message.ids);
}
/** What changed lately and is counted nowhere yet: what is loaded now may not hold it. */
export const uncounted = (): ItemsMessage[] =>
  lately.filter(({ isCounted }) => !isCounted).map(({ message }) => message);

/** Whether it was told what changed of these items, none meaning many: then whoever it matters to knows already. */
export const isExplained = (ids: readonly string[]): boolean => {
  const told = (id: string | null): boolean =>
    lately.some(
      ({ message }) => message.ids.length === 0 || (id !== null && message.ids.includes(id)),
    );
  return ids.length === 0 ? told(null) : ids.every(told);
};

function open(): void {
  if (stream) return;
  let broke = false;
  stream = new EventSource('/api/live');
  stream.onmessage = ({ data }: MessageEvent<string>) => {
    const message = JSON.parse(data) as LiveMessage;
    remember(message);
    ears.forEach((ear) => ear(message));
  };
  stream.onerror = () => (broke = true);
  stream.onopen = () => {
    if (broke) ears.forEach((ear) => ear({ about: 'again' }));
    broke = false;
  };
}

/** Listen until the returned function is called; the stream closes with its last listener. */
export function hear(ear: Hear): () => void {
  ears.add(ear);
  open();
  return () => {
    ears.delete(ear);
    if (ears.size > 0) return;
    stream?.close();
    stream = null;
  };
}

/** Run at most once in a while, and once more at the end. */
export function calmly(run: () => void, milliseconds = 300): () => void {
  let timer: ReturnType<typeof setTimeout> | null = null;
  let again = false;
  const start = (): void => {
    run();
    timer = setTimeout(() => {
      timer = null;
      if (again) {
        again = false;
        start();
      }
    }, milliseconds);
  };
  return () => {
    if (timer) again = true;
    else start();
  };
}

/** Whether counts are other ones. */
export const isAboutCounts = ({ about }: LiveMessage): boolean =>
  about === 'counted' || about === 'again';
