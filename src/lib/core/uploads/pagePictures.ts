import { Parser } from 'htmlparser2';

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
  const parser = new Parser({
    onopentag(name, attributes) {
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
    onclosetag(name) {
      if (name === 'a') link = null;
    },
  });
  parser.end(html);
  return [...found].map(([address, alt]) => ({ address, alt }));
}
