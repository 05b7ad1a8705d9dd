import { actorOf, endpoint } from '#server/edge/edge';

/** One event stream for each window; it ends with the session. */
export const GET = endpoint(async (event) => {
  const { sessionId, streams } = event.locals;
  const { id, role } = actorOf(event);
  const asksOnly = event.request.method === 'HEAD';
  const stream = asksOnly ? null : streams.open({ personId: id, sessionId, role });
  return new Response(stream, {
    headers: {
      'content-type': 'text/event-stream',
      'cache-control': 'no-store',
      'x-accel-buffering': 'no',
    },
  });
});
