import type { ApiScope } from '#core/api/shapes';
import type { Actor } from '#server/auth/people';
import type { Auth } from '#server/auth/auth';
import type { House } from '#server/house/house';
import type { Streams } from '#server/live/streams';

declare global {
  namespace App {
    interface Error {
      message: string;
      code?: string;
    }
    interface Locals {
      house: House;
      auth: Auth;
      actor: Actor | null;
      sessionId: string;
      /** What a token may do; null for people who signed in. */
      scopes: ApiScope[] | null;
      streams: Streams;
    }
  }
}
