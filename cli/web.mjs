// @ts-check
/** The web server: the built application, behind what holds for every single answer. */
// @ts-expect-error the build is made later than this is checked
import { server } from '../build/index.js';
import { SECURITY_HEADERS } from '../src/lib/server/edge/headers.js';

/** Who sends nothing, or takes nothing, for so long is let go of; uploads may take their hours. */
const HEADERS_MS = 20_000;
const SILENT_MS = 300_000;

/** @type {import('node:http').Server} */
const http = server.server;
http.headersTimeout = HEADERS_MS;
http.requestTimeout = 0;
http.timeout = SILENT_MS;
// Once nobody is answered any more nothing is left to do: what is written was committed before it was answered.
process.on('sveltekit:shutdown', () => process.exit(0));
const headers = Object.entries(SECURITY_HEADERS);
if (process.env['ORIGIN']?.startsWith('https:'))
  headers.push(['strict-transport-security', 'max-age=31536000']);
http.prependListener('request', (request, response) => {
  // Whoever answers sees when the answer was taken.
  Object.assign(request, { answer: response });
  for (const [name, value] of headers) response.setHeader(name, value);
});
