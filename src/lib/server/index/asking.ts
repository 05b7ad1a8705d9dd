import { createServer, type IncomingMessage, type Server } from 'node:http';
import { z } from 'zod';
import { ArchiveError } from '#core/errors';
import { checkQuery, type Query } from '#core/query/tree';
import type { House } from '../house/house';
import { ASKS, type Ask } from './answer';

/** What every question has; who asks is our own, and may be of another release. */
const count = z.number().int().min(0);
const askSchema = z
  .looseObject({
    ask: z.enum(ASKS),
    query: z.looseObject({
      where: z.array(z.unknown()),
      order: z.looseObject({ by: z.string(), down: z.boolean() }),
    }),
    fields: z.array(z.string()),
    values: z.array(z.string()),
    field: z.string(),
    typed: z.string(),
    id: z.string(),
    unit: z.string(),
    folder: z.string().nullable(),
    ...{ from: count, to: count, count, page: count },
    sight: z
      .object({
        states: z.array(z.string()),
        own: z.string().nullable(),
        room: z.string().nullable(),
      })
      .nullable(),
  })
  .partial()
  .required({ ask: true, query: true });

/** A question is small; selections are queries. */
const LARGEST_ASK = 1 << 20;
async function bodyOf(request: IncomingMessage): Promise<string> {
  const parts: Buffer[] = [];
  let size = 0;
  for await (const part of request as AsyncIterable<Buffer>) {
    size += part.length;
    if (size > LARGEST_ASK) throw new ArchiveError('bad-request', 'This question is too large.');
    parts.push(part);
  }
  return Buffer.concat(parts).toString();
}

/** A question as it came. @throws ArchiveError bad-request for what is none */
function askIn(text: string): Ask {
  try {
    const ask = askSchema.parse(JSON.parse(text));
    checkQuery(ask.query as Query);
    return ask as unknown as Ask;
  } catch (error) {
    if (error instanceof ArchiveError) throw error;
    throw new ArchiveError('bad-request', 'The index is asked nothing it knows.');
  }
}

/** The answer of an index that is not there yet, or too far behind. */
export const BEHIND = Symbol('behind');

/** Questions as they come over the socket. @param answer gives BEHIND while it is: then the database is asked */
export function serverOf({ log }: House, answer: (ask: Ask) => Promise<unknown>): Server {
  return createServer((request, response) => {
    const reply = (status: number, value: unknown): void => {
      response.writeHead(status, { 'content-type': 'application/json' });
      response.end(JSON.stringify(value));
    };
    void (async () => {
      try {
        const answered = await answer(askIn(await bodyOf(request)));
        if (answered === BEHIND) reply(503, { behind: true });
        else reply(200, answered);
      } catch (error) {
        if (error instanceof ArchiveError)
          return reply(422, { code: error.code, message: error.message });
        log.error({ error: String(error), stack: (error as Error).stack }, 'the index failed');
        reply(500, {});
      }
    })();
  });
}
