/**
 * Somebody who does his worst, as a process of his own: `node worst.js ADDRESS COOKIE KIND…` asks until it is ended. A large
 * form is sent signed out, as large as anybody lets it be.
 */
const [address, cookie, ...kinds] = process.argv.slice(2);
/** Requests at once, as a script would send them. */
const AT_ONCE = 30;

const post = (path, body) => ({
  path,
  method: 'POST',
  headers: { 'content-type': 'application/json', cookie },
  body: JSON.stringify(body),
});
const get = (path) => ({ path, headers: { cookie } });
const typed = 'box kitez dusk from last septembr without creditt use yes due XYZ '.repeat(30);
const all = { q: '', except: [] };
const ASKS = {
  typing: get(`/api/catalogue/complete?typed=${encodeURIComponent(typed.slice(0, 1990))}`),
  table: post('/api/catalogue/csv', { ids: all, fields: ['name', 'title', 'taken'] }),
  records: post('/api/records', { ids: all }),
  census: get(`/api/catalogue/census?q=${encodeURIComponent('rated 2..')}`),
  ids: get(`/api/catalogue/ids?q=${encodeURIComponent('order name')}`),
  names: post('/api/rename/material', { ids: all, pattern: '{title}-{counter 0001}' }),
  choices: get(`/api/catalogue/choices?field=terms&typed=${'k'.repeat(30)}`),
  form: {
    path: '/sign-in',
    method: 'POST',
    headers: { 'content-type': 'application/x-www-form-urlencoded' },
    body: 'a&'.repeat(1 << 20),
  },
};
if (kinds.length === 0) console.log(Object.keys(ASKS).join(' '));

let at = 0;
for (let one = 0; kinds.length > 0 && one < AT_ONCE; one += 1)
  void (async () => {
    for (;;) {
      const { path, ...wish } = ASKS[kinds[(at += 1) % kinds.length]];
      await fetch(address + path, wish)
        .then(
          (answer) => answer.arrayBuffer(),
          () => undefined,
        )
        .catch(() => undefined);
    }
  })();
