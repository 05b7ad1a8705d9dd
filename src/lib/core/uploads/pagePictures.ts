import { Tokenizer } from 'htmlparser2';

export interface PagePicture {
  address: string;
  /** What the page says it shows. */
  alt: string;
}

const PICTURE =
  /\.(jpe?g|png|webp|avif|gif|tiff?|heic|svg|dng|cr[23]|nef|arw|raf|orf|rw2|mp4|mov|webm|mxf|wav|mp3|flac|pdf)$/i;

/** The largest of a srcset (HTML, 4.8.4.2.1): by width or by density. */
function largest(srcset: string): string {
  const candidates = srcset
    .split(/,\s+/)
    .map((part) => /^\s*(\S+)(?:\s+([\d.]+)[wx])?\s*$/.exec(part))
    .filter((match) => match !== null)
    .map(([, address = '', size]) => ({ address, size: Number(size ?? 1) }));
  return candidates.sort((a, b) => b.size - a.size)[0]?.address ?? '';
}

type Attributes = Record<string, string>;

/** Of the elements that show or lead to pictures, these attributes say so. */
const TELLING = new Set('src srcset href alt title content property'.split(' '));
const LONGEST_VALUE = 64_000;

/**
 * Walk a page's tags in their order. By tokens rather than by a tree: however deep a page is nested, it takes
 * time in proportion to its length.
 */
function eachTag(
  html: string,
  opened: (name: string, attributes: Attributes) => void,
  closed: (name: string) => void,
): void {
  const none = (): void => undefined;
  let name = '';
  let attributes: Attributes = {};
  let attribute = '';
  let value = '';
  const open = (): void => opened(name, attributes);
  const tokenizer = new Tokenizer(
    { xmlMode: false, decodeEntities: true },
    {
      onopentagname(start, end) {
        name = html.slice(start, end).toLowerCase();
        attributes = {};
      },
      onattribname(start, end) {
        attribute = html.slice(start, end).toLowerCase();
        value = '';
      },
      onattribdata(start, end) {
        if (value.length < LONGEST_VALUE) value += html.slice(start, end);
      },
      onattribentity(codepoint) {
        value += String.fromCodePoint(codepoint);
      },
      onattribend() {
        if (TELLING.has(attribute)) attributes[attribute] ??= value;
      },
      onopentagend: open,
      onselfclosingtag: open,
      onclosetag: (start, end) => closed(html.slice(start, end).toLowerCase()),
      oncdata: none,
      oncomment: none,
      ondeclaration: none,
      onend: none,
      onprocessinginstruction: none,
      ontext: none,
      ontextentity: none,
    },
  );
  tokenizer.write(html);
  tokenizer.end();
}

/**
 * The pictures a page shows or links to, each once, in its order. A picture that links to a larger one
 * stands for that.
 */
export function picturesOfPage(html: string, base: string): PagePicture[] {
  const found = new Map<string, string>();
  let root = base;
  let link: string | null = null;
  const add = (address: string, alt: string): void => {
    if (!address || !URL.canParse(address, root)) return;
    const url = new URL(address, root);
    if (!/^https?:$/.test(url.protocol)) return;
    url.hash = '';
    if (!found.get(url.href)) found.set(url.href, alt.trim());
  };
  eachTag(
    html,
    (name, attributes) => {
      const {
        src = '',
        srcset = '',
        href = '',
        alt = '',
        content = '',
        property = '',
      } = attributes;
      if (name === 'base' && href && URL.canParse(href, base)) root = new URL(href, base).href;
      else if (name === 'a') {
        link =
          href && URL.canParse(href, root) && PICTURE.test(new URL(href, root).pathname)
            ? href
            : null;
        if (link) add(link, attributes['title'] ?? '');
      } else if (name === 'img') {
        if (link) add(link, alt);
        else add(srcset ? largest(srcset) : src, alt);
      } else if (name === 'source' && srcset) add(largest(srcset), '');
      else if ((name === 'source' || name === 'video' || name === 'audio') && src) add(src, '');
      else if (name === 'meta' && property === 'og:image') add(content, '');
    },
    (name) => {
      if (name === 'a') link = null;
    },
  );
  return [...found].map(([address, alt]) => ({ address, alt }));
}
