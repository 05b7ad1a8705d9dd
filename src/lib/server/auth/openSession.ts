import { isAPIError } from 'better-auth/api';
import { VISITOR_HEADER, type Auth } from './auth';

/** From here on the server is at fault, not what was typed (RFC 9110, 15.6). */
const SERVER_ERROR = 500;

/**
 * Open a session for a pair of address and password.
 * @param visitor address of who asks, as we know it
 * @returns the library's answer with its cookies; null where the pair does not go together
 * @throws whatever else went wrong: a database that is away is no wrong password
 */
export async function openSession(
  auth: Auth,
  body: { email: string; password: string },
  asked: Headers,
  visitor: string,
): Promise<Response | null> {
  const headers = new Headers(asked);
  headers.set(VISITOR_HEADER, visitor);
  const answer = await auth.api
    .signInEmail({ body, headers, asResponse: true })
    .catch((error: unknown) => {
      if (isAPIError(error) && error.statusCode < SERVER_ERROR) return null;
      throw error;
    });
  if (answer && answer.status >= SERVER_ERROR)
    throw new Error(`The sign-in library answered ${answer.status}.`);
  return answer?.ok ? answer : null;
}
