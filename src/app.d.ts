import type { Actor } from '#server/auth/people';
import type { Auth } from '#server/auth/auth';
import type { House } from '#server/house/house';

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
      sessionToken: string;
      hear: (ear: (message: string) => void) => () => void;
    }
  }
}
