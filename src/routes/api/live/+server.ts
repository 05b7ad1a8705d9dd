import type { RequestHandler } from './$types';

const BEAT_MS = 20_000;

/** One event stream per window (Server-Sent Events, HTML Living Standard 9.2). */
export const GET: RequestHandler = ({ locals }) => {
  let stop = (): void => undefined;
  const encoder = new TextEncoder();
  const stream = new ReadableStream<Uint8Array>({
    start(controller) {
      const send = (text: string): void => controller.enqueue(encoder.encode(text));
      const deaf = locals.hear((message) => send(`data: ${message}\n\n`));
      const beat = setInterval(() => send(': here\n\n'), BEAT_MS);
      stop = () => {
        deaf();
        clearInterval(beat);
      };
      send('retry: 2000\n\n');
    },
    cancel: () => stop(),
  });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    },
  });
};
