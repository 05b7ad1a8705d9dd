import { DEMO_ACCOUNTS, DEMO_PASSWORD } from '../../demo/demo';
import type { Role } from '#core/people/roles';

/** The running application by plain HTTP, as a program or a stranger would ask it. */
export const ADDRESS = (): string => process.env['MINDFUL_TEST_ADDRESS']!;

export interface Asking {
  method?: string;
  cookie?: string;
  headers?: Record<string, string>;
  body?: string | Uint8Array;
}

/** Ask without following redirects. */
export const ask = (path: string, { method = 'GET', cookie, headers, body }: Asking = {}) =>
  fetch(`${ADDRESS()}${path}`, {
    method,
    redirect: 'manual',
    headers: { ...(cookie ? { cookie } : {}), ...headers },
    ...(body === undefined ? {} : { body: body as BodyInit }),
    signal: AbortSignal.timeout(30_000),
  });

export const askJson = (path: string, method: string, cookie: string, value: unknown) =>
  ask(path, {
    method,
    cookie,
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify(value),
  });

/** Cookies of an answer, as a browser would send them back. */
export const cookiesOf = (answer: Response): string =>
  answer.headers
    .getSetCookie()
    .map((line) => line.split(';')[0]!)
    .filter((pair) => !pair.endsWith('='))
    .join('; ');

/** Post a form to a page. */
export const askForm = (
  path: string,
  fields: Record<string, string>,
  { cookie, headers }: Asking = {},
) =>
  ask(path, {
    method: 'POST',
    ...(cookie ? { cookie } : {}),
    headers: {
      'content-type': 'application/x-www-form-urlencoded',
      accept: 'text/html',
      ...headers,
    },
    body: new URLSearchParams(fields).toString(),
  });

/** Sign in. @returns the cookies; throws where it did not work */
export async function signedIn(email: string, password = DEMO_PASSWORD): Promise<string> {
  const answer = await askForm('/sign-in', { email, password });
  if (answer.status !== 303) throw new Error(`sign-in answered ${answer.status}`);
  return cookiesOf(answer);
}

export const asRole = (role: Role): Promise<string> =>
  signedIn(DEMO_ACCOUNTS.find((account) => account.role === role)!.email);
