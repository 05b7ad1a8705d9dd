// @ts-check
/**
 * Headers every answer carries, pages and files, redirects and refusals. Plain JavaScript: the front server
 * (cli/web.mjs) sets them before anything answers; pages bring a content security policy of their own.
 * @type {Record<string, string>}
 */
export const SECURITY_HEADERS = {
  'x-content-type-options': 'nosniff',
  'x-frame-options': 'DENY',
  'referrer-policy': 'same-origin',
  'cross-origin-opener-policy': 'same-origin',
  'cross-origin-resource-policy': 'same-origin',
  'permissions-policy': 'camera=(), microphone=(), geolocation=()',
  'content-security-policy':
    "default-src 'self'; style-src 'self' 'unsafe-inline'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'",
};
