import { once } from 'node:events';
import { createServer, get, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { RequestEvent } from '@sveltejs/kit';
import { describe, expect, it } from 'vitest';
import { inTurn, laneOf, takeTurn } from '#server/edge/turns';
import { until } from '../support/archive';

describe('a share for each person', () => {
  const lane = { atOnce: 2, waiting: 3 };

  it('lets few in at once, the rest wait in order, and more are sent away with a time to come back', async () => {
    const order: number[] = [];
    const [first, second] = [await takeTurn('a', lane), await takeTurn('a', lane)];
    const waiting = [1, 2, 3].map((one) =>
      takeTurn('a', lane).then((give) => {
        order.push(one);
        return give;
      }),
    );
    await expect(takeTurn('a', lane)).rejects.toMatchObject({
      code: 'too-many-tries',
      data: { retryAfter: expect.any(Number) as number },
    });
    // Somebody else has a share of their own.
    (await takeTurn('b', lane))();
    first();
    first();
    (await waiting[0]!)();
    second();
    for (const one of waiting) (await one)();
    expect(order).toEqual([1, 2, 3]);
    // Nothing is kept of who went.
    (await takeTurn('a', lane))();
  });

  it('leaves nobody in the row who does not wait any more', async () => {
    const give = await takeTurn('c', { atOnce: 1, waiting: 5 });
    const gone = new AbortController();
    const left = takeTurn('c', { atOnce: 1, waiting: 5 }, gone.signal);
    const next = takeTurn('c', { atOnce: 1, waiting: 5 });
    gone.abort();
    await expect(left).rejects.toMatchObject({ code: 'too-many-tries' });
    give();
    (await next)();
  });

  it('is not used up by requests that were given up before their turn', async () => {
    const came: (IncomingMessage & { answer?: ServerResponse })[] = [];
    const server = createServer((request, answer) =>
      came.push(Object.assign(request, { answer })),
    ).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const { port } = server.address() as AddressInfo;
    const answered = (req: (typeof came)[number]): Promise<Response> =>
      inTurn(
        {
          route: { id: '/api/catalogue/csv' },
          locals: { actor: { id: 'hasty' } },
          platform: { req },
        } as unknown as RequestEvent,
        () => Promise.resolve(new Response('rows')),
      );
    // As often as anybody may ask at once, and then once more.
    for (let times = 1; times <= 4; times += 1) {
      const asked = get({ port, host: '127.0.0.1' }).on('error', () => undefined);
      await until(() => Promise.resolve(came.length === times), 'the request');
      asked.destroy();
      await until(() => Promise.resolve(came.at(-1)!.answer!.closed), 'it to be given up');
      expect(await (await answered(came.at(-1)!)).text()).toBe('rows');
    }
    server.close();
  }, 20_000);

  it('counts what costs much apart from pages, files and what is typed', () => {
    expect(
      [
        '/(room)/catalogue',
        '/api/catalogue/csv',
        '/api/catalogue/complete',
        '/api/items/[id]/original',
        '/r/[token]/file/[item]/[size]',
        '/api/items/[id]/measure',
        '/api/filing/preview',
        '/api/live',
      ].map(laneOf),
    ).toEqual(['common', 'tables', 'typing', 'files', 'files', 'heavy', 'heavy', null]);
  });
});
