import type { Colour } from './light';
import { random, type Random } from './random';

/** Things painted over a ground, as SVG in px of the picture. */
export const SAILS = [
  ['#c8432e', '#f2e6cf', '#2f6f7a', '#f0b73c', '#23364f'],
  ['#1f3a5f', '#e0593d', '#f6efe2', '#8fb7c4', '#c8432e'],
  ['#6d3f6b', '#e9b7a0', '#f5efe3', '#b4637a', '#3d2a4d'],
  ['#2f6f6b', '#f0b24a', '#f7f0dd', '#d9773a', '#1d4a4c'],
  ['#e2b33a', '#1d2b3c', '#d1452f', '#f4ead6', '#8a6100'],
  ['#3c5a80', '#f3ece0', '#d98f9e', '#274060', '#e0593d'],
] as const;

const round = (value: number): string => value.toFixed(1);
const shade = (colour: string, factor: number): string => {
  const value = parseInt(colour.slice(1), 16);
  const part = (shift: number): number =>
    Math.min(255, Math.max(0, Math.round(((value >> shift) & 255) * factor)));
  return `#${[16, 8, 0].map((shift) => part(shift).toString(16).padStart(2, '0')).join('')}`;
};
/** `#rrggbb` */
export const rgb = (colour: Colour, factor = 1): string =>
  `#${colour
    .map((part) =>
      Math.round(Math.min(1, part * factor) * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** Line from a kite's bridle to the ground, sagging. */
export function line(
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  opacity = 0.5,
  width = 1.6,
): string {
  const cx = (x0 + x1) / 2 + (y1 - y0) * 0.06;
  const cy = (y0 + y1) / 2 + Math.abs(x1 - x0) * 0.12;
  return `<path d="M${round(x0)} ${round(y0)} Q${round(cx)} ${round(cy)} ${round(x1)} ${round(y1)}" fill="none" stroke="#f4f1ea" stroke-width="${width}" opacity="${opacity}"/>`;
}

function tail(x: number, y: number, size: number, colours: readonly string[], r: Random): string {
  const sway = r.between(-0.5, 0.5);
  const points = Array.from({ length: 26 }, (_, step) => {
    const t = step / 25;
    return [
      x + size * (sway * t + Math.sin(t * 7 + sway * 9) * 0.13 * (0.3 + t)),
      y + size * t * 1.35,
    ] as const;
  });
  const path = points
    .map(([px, py], index) => `${index ? 'L' : 'M'}${round(px)} ${round(py)}`)
    .join('');
  const bows = points
    .filter((_, index) => index > 2 && index % 4 === 0)
    .map(([px, py], index) => {
      const w = size * 0.055;
      const turn = r.between(-40, 40);
      return `<path transform="translate(${round(px)} ${round(py)}) rotate(${round(turn)})" d="M0 0L${round(w)} ${round(-w * 0.6)}L${round(w)} ${round(w * 0.6)}ZM0 0L${round(-w)} ${round(-w * 0.6)}L${round(-w)} ${round(w * 0.6)}Z" fill="${colours[index % colours.length]}"/>`;
    });
  return `<path d="${path}" fill="none" stroke="${shade(colours[4] ?? colours[0]!, 0.8)}" stroke-width="${round(size * 0.012)}"/>${bows.join('')}`;
}

let clips = 0;
/** Shading that makes flat cloth belly in the wind. */
function belly(path: string, size: number): string {
  clips += 1;
  const id = `g${clips}`;
  return `<defs><linearGradient id="${id}" x1="0" y1="0" x2="1" y2="0.35"><stop offset="0" stop-color="#fff" stop-opacity=".34"/><stop offset=".46" stop-color="#fff" stop-opacity="0"/><stop offset=".52" stop-color="#10202a" stop-opacity=".32"/><stop offset="1" stop-color="#10202a" stop-opacity=".06"/></linearGradient></defs><path d="${path}" fill="url(#${id})"/><path d="${path}" fill="none" stroke="#1d2320" stroke-opacity=".55" stroke-width="${round(size * 0.008)}"/>`;
}

function banded(path: string, size: number, colours: readonly string[], r: Random): string {
  clips += 1;
  const id = `c${clips}`;
  const style = r.int(0, 3);
  const parts: string[] = [];
  if (style === 0)
    for (let band = 0; band < 7; band += 1)
      parts.push(
        `<rect x="${-size}" y="${round(-size * 0.62 + band * size * 0.19)}" width="${size * 2}" height="${round(size * 0.2)}" fill="${colours[band % colours.length]}"/>`,
      );
  else if (style === 1)
    parts.push(
      `<rect x="${-size}" y="${-size}" width="${size}" height="${size * 0.95}" fill="${colours[0]}"/><rect x="0" y="${-size}" width="${size}" height="${size * 0.95}" fill="${colours[1]}"/><rect x="${-size}" y="${-size * 0.08}" width="${size}" height="${size * 2}" fill="${colours[2]}"/><rect x="0" y="${-size * 0.08}" width="${size}" height="${size * 2}" fill="${colours[3]}"/>`,
    );
  else if (style === 2) {
    parts.push(
      `<rect x="${-size}" y="${-size}" width="${size * 2}" height="${size * 3}" fill="${colours[1]}"/>`,
    );
    for (let ring = 4; ring > 0; ring -= 1)
      parts.push(
        `<circle cx="0" cy="${round(size * 0.05)}" r="${round(ring * size * 0.14)}" fill="${colours[ring % colours.length]}"/>`,
      );
  } else {
    parts.push(
      `<rect x="${-size}" y="${-size}" width="${size * 2}" height="${size * 3}" fill="${colours[2]}"/>`,
    );
    for (let ray = 0; ray < 9; ray += 1)
      parts.push(
        `<path d="M0 ${round(size * 0.75)}L${round((ray - 4.3) * size * 0.28)} ${-size}L${round((ray - 3.7) * size * 0.28)} ${-size}Z" fill="${colours[ray % 2 ? 0 : 3]}"/>`,
      );
    parts.push(
      `<rect x="${-size}" y="${round(size * 0.3)}" width="${size * 2}" height="${round(size * 0.1)}" fill="${colours[4]}"/>`,
    );
  }
  // A pattern is drawn once at the sail's own size; a clip would cost a surface as large as the picture.
  return `<pattern id="${id}" patternUnits="userSpaceOnUse" x="${-size}" y="${-size}" width="${size * 2}" height="${size * 3}"><g transform="translate(${size} ${size})">${parts.join('')}</g></pattern><path d="${path}" fill="url(#${id})"/>`;
}

const OUTLINES = {
  diamond: 'M0 -.62L.46 -.12L0 .75L-.46 -.12Z',
  delta: 'M0 -.42L.82 .34L.2 .22L0 .42L-.2 .22L-.82 .34Z',
  six: 'M0 -.75L.46 -.4L.46 .4L0 .75L-.46 .4L-.46 -.4Z',
  sled: 'M-.34 -.55L.34 -.55L.55 -.1L.34 .6L-.34 .6L-.55 -.1Z',
  bow: 'M0 -.5Q.5 -.42 .72 -.02Q.42 .1 0 .62Q-.42 .1 -.72 -.02Q-.5 -.42 0 -.5Z',
} as const;
export type KiteShape = keyof typeof OUTLINES | 'box';
export const KITE_SHAPES: KiteShape[] = ['diamond', 'delta', 'six', 'sled', 'bow', 'box'];

const scaled = (outline: string, size: number): string =>
  outline.replace(/-?\d*\.\d+|-?\d+/g, (number) => round(Number(number) * size));

function box(size: number, colours: readonly string[]): string {
  const w = size * 0.42;
  const d = size * 0.2;
  const cell = (y: number, a: string, b: string): string => {
    const h = size * 0.42;
    return `<path d="M${round(-w)} ${round(y)}L0 ${round(y + d)}L0 ${round(y + d + h)}L${round(-w)} ${round(y + h)}Z" fill="${a}"/><path d="M0 ${round(y + d)}L${round(w)} ${round(y)}L${round(w)} ${round(y + h)}L0 ${round(y + d + h)}Z" fill="${shade(b, 0.82)}"/><path d="M${round(-w)} ${round(y)}L0 ${round(y - d)}L${round(w)} ${round(y)}L0 ${round(y + d)}Z" fill="${shade(a, 0.55)}" opacity=".85"/>`;
  };
  const spars = [-w, 0, w].map((x, index) => {
    const drop = index === 1 ? d : 0;
    return `<path d="M${round(x)} ${round(-size * 0.7 + drop)}L${round(x)} ${round(size * 0.72 + drop)}" stroke="#3a2f25" stroke-width="${round(size * 0.014)}"/>`;
  });
  return `${cell(-size * 0.6, colours[0]!, colours[1]!)}${cell(size * 0.16, colours[3]!, colours[0]!)}${spars.join('')}`;
}

export interface KiteOptions {
  x: number;
  y: number;
  size: number;
  shape: KiteShape;
  sail: readonly string[];
  /** degrees */
  turn: number;
  seed: number;
  tail?: boolean;
  /** px of blur: out of the plane of focus */
  blur?: number;
  /** 0…1: lit from within, for night */
  glow?: number;
  opacity?: number;
}

/** A kite with sail, spars, fold and tail. */
export function kite(options: KiteOptions): string {
  const { x, y, size, shape, sail, turn, seed } = options;
  const r = random(seed);
  clips += 1;
  const id = `k${clips}`;
  let body: string;
  if (shape === 'box') body = box(size, sail);
  else {
    const path = scaled(OUTLINES[shape], size);
    const spars = `<path d="M0 ${round(-size * 0.62)}L0 ${round(size * 0.7)}M${round(-size * 0.46)} ${round(-size * 0.12)}Q0 ${round(-size * 0.2)} ${round(size * 0.46)} ${round(-size * 0.12)}" stroke="#2a211a" stroke-opacity=".65" stroke-width="${round(size * 0.013)}" fill="none"/>`;
    body =
      banded(path, size, sail, r) +
      belly(path, size) +
      (shape === 'diamond' || shape === 'bow' ? spars : '');
  }
  const hanging =
    options.tail === false || shape === 'box'
      ? ''
      : tail(0, size * (shape === 'delta' ? 0.42 : 0.72), size * r.between(0.9, 1.3), sail, r);
  const filter = options.blur
    ? `<filter id="${id}" x="-50%" y="-50%" width="200%" height="250%"><feGaussianBlur stdDeviation="${options.blur}"/></filter>`
    : '';
  const halo = options.glow
    ? `<defs><radialGradient id="h${clips}"><stop offset="0" stop-color="${sail[1]}" stop-opacity="${0.55 * options.glow}"/><stop offset="1" stop-color="${sail[1]}" stop-opacity="0"/></radialGradient></defs><circle r="${round(size * 1.7)}" fill="url(#h${clips})"/>`
    : '';
  return `${filter}<g transform="translate(${round(x)} ${round(y)}) rotate(${round(turn)})" opacity="${options.opacity ?? 1}"${filter ? ` filter="url(#${id})"` : ''}>${halo}${hanging}${body}</g>`;
}

/** Marram grass in tufts, bent by the wind. */
export function grass(
  x: number,
  y: number,
  size: number,
  blades: number,
  colour: string,
  seed: number,
  wind = 0.35,
): string {
  const r = random(seed);
  return Array.from({ length: blades }, () => {
    const bx = x + r.normal() * size * 0.55;
    const by = y + r.between(-0.03, 0.06) * size;
    const length = size * r.between(0.45, 1.15);
    const lean = wind * length + r.normal() * length * 0.22;
    const w = Math.max(0.7, size * 0.012);
    const tone = shade(colour, r.between(0.62, 1.35));
    return `<path d="M${round(bx - w)} ${round(by)}Q${round(bx + lean * 0.25)} ${round(by - length * 0.7)} ${round(bx + lean)} ${round(by - length)}Q${round(bx + lean * 0.32)} ${round(by - length * 0.62)} ${round(bx + w)} ${round(by)}Z" fill="${tone}"/>`;
  }).join('');
}

/** A person at a distance: coat, trousers, head; arms up on a line, or at rest. */
export function figure(
  x: number,
  y: number,
  height: number,
  coat: string,
  pose: 'flying' | 'standing' | 'walking',
  seed: number,
  dark = false,
): string {
  const r = random(seed);
  const h = height;
  const legs = dark ? '#14171c' : r.pick(['#2c3440', '#3d352e', '#22303a']);
  const top = dark ? '#171a20' : coat;
  const skin = dark ? '#1b1d22' : r.pick(['#c99b7a', '#8c5f45', '#e0b794', '#6b4632']);
  const hair = dark ? '#14171c' : r.pick(['#2b211b', '#5b4030', '#1b1a1c', '#8b6b45']);
  const stride = pose === 'walking' ? h * 0.13 : h * 0.05;
  const arm =
    pose === 'flying'
      ? `<path d="M${round(-h * 0.03)} ${round(-h * 0.74)}L${round(-h * 0.2)} ${round(-h * 0.86)}L${round(-h * 0.27)} ${round(-h * 1.0)}" /><path d="M${round(h * 0.03)} ${round(-h * 0.74)}L${round(-h * 0.1)} ${round(-h * 0.72)}L${round(-h * 0.22)} ${round(-h * 0.88)}"/>`
      : `<path d="M${round(-h * 0.08)} ${round(-h * 0.76)}L${round(-h * 0.12)} ${round(-h * 0.56)}L${round(-h * 0.1)} ${round(-h * 0.42)}"/><path d="M${round(h * 0.08)} ${round(-h * 0.76)}L${round(h * 0.13)} ${round(-h * 0.58)}L${round(h * 0.09)} ${round(-h * 0.44)}"/>`;
  return `<g transform="translate(${round(x)} ${round(y)})"><ellipse cx="${round(h * 0.12)}" cy="0" rx="${round(h * 0.28)}" ry="${round(h * 0.03)}" fill="#000" opacity=".22"/><path d="M${round(-h * 0.05)} ${round(-h * 0.48)}L${round(-stride)} 0M${round(h * 0.05)} ${round(-h * 0.48)}L${round(stride)} 0" stroke="${legs}" stroke-width="${round(h * 0.085)}" stroke-linecap="round"/><g fill="none" stroke="${top}" stroke-width="${round(h * 0.066)}" stroke-linecap="round" stroke-linejoin="round">${arm}</g><path d="M${round(-h * 0.1)} ${round(-h * 0.79)}Q0 ${round(-h * 0.86)} ${round(h * 0.1)} ${round(-h * 0.79)}L${round(h * 0.115)} ${round(-h * 0.44)}Q0 ${round(-h * 0.4)} ${round(-h * 0.115)} ${round(-h * 0.44)}Z" fill="${top}"/><path d="M${round(h * 0.01)} ${round(-h * 0.8)}L${round(h * 0.1)} ${round(-h * 0.79)}L${round(h * 0.115)} ${round(-h * 0.44)}L${round(h * 0.02)} ${round(-h * 0.42)}Z" fill="#000" opacity=".2"/><circle cx="0" cy="${round(-h * 0.92)}" r="${round(h * 0.068)}" fill="${skin}"/><path d="M${round(-h * 0.07)} ${round(-h * 0.92)}A${round(h * 0.072)} ${round(h * 0.075)} 0 0 1 ${round(h * 0.072)} ${round(-h * 0.9)}L${round(h * 0.03)} ${round(-h * 0.955)}Z" fill="${hair}"/></g>`;
}

/** Flags on a line between two poles. */
export function bunting(
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  colours: readonly string[],
  size: number,
): string {
  const flags = Math.max(4, Math.round(Math.abs(x1 - x0) / (size * 1.5)));
  const sag = Math.abs(x1 - x0) * 0.1;
  const at = (t: number): [number, number] => [
    x0 + (x1 - x0) * t,
    y0 + (y1 - y0) * t + Math.sin(Math.PI * t) * sag,
  ];
  const path = Array.from({ length: 21 }, (_, step) => at(step / 20))
    .map(([x, y], index) => `${index ? 'L' : 'M'}${round(x)} ${round(y)}`)
    .join('');
  const cloth = Array.from({ length: flags }, (_, flag) => {
    const [x, y] = at((flag + 0.5) / flags);
    return `<path d="M${round(x - size * 0.42)} ${round(y)}L${round(x + size * 0.42)} ${round(y)}L${round(x + size * 0.1)} ${round(y + size)}Z" fill="${colours[flag % colours.length]}"/>`;
  });
  return `<path d="${path}" fill="none" stroke="#2b2622" stroke-width="2"/>${cloth.join('')}`;
}

/** A small sailing boat. */
export function boat(x: number, y: number, size: number, hull: string, sail: string): string {
  const s = size;
  return `<g transform="translate(${round(x)} ${round(y)})"><path d="M${round(-s * 0.5)} ${round(-s * 0.1)}L${round(s * 0.55)} ${round(-s * 0.1)}L${round(s * 0.4)} ${round(s * 0.08)}L${round(-s * 0.38)} ${round(s * 0.08)}Z" fill="${hull}"/><path d="M0 ${round(-s * 0.1)}L0 ${round(-s * 1.25)}" stroke="#3a3029" stroke-width="${round(s * 0.03)}"/><path d="M${round(s * 0.04)} ${round(-s * 1.2)}Q${round(s * 0.5)} ${round(-s * 0.55)} ${round(s * 0.46)} ${round(-s * 0.18)}L${round(s * 0.04)} ${round(-s * 0.18)}Z" fill="${sail}"/><path d="M${round(-s * 0.04)} ${round(-s * 1.05)}L${round(-s * 0.4)} ${round(-s * 0.18)}L${round(-s * 0.04)} ${round(-s * 0.18)}Z" fill="${shade(sail, 0.86)}"/><path d="M${round(-s * 0.35)} ${round(s * 0.1)}L${round(s * 0.4)} ${round(s * 0.1)}L${round(s * 0.1)} ${round(s * 0.7)}Z" fill="${sail}" opacity=".13"/></g>`;
}

/** Timber posts of a groyne running out to sea. */
export function groyne(
  x0: number,
  y0: number,
  x1: number,
  y1: number,
  colour: string,
  seed: number,
): string {
  const r = random(seed);
  return Array.from({ length: 22 }, (_, post) => {
    const t = post / 21;
    const near = Math.pow(1 - t, 1.5);
    const x = x1 + (x0 - x1) * near;
    const y = y1 + (y0 - y1) * near;
    const h = 12 + near * 230 * r.between(0.8, 1.15);
    const w = 3 + near * 44;
    return `<path d="M${round(x - w / 2)} ${round(y)}L${round(x - w / 2)} ${round(y - h)}L${round(x + w / 2)} ${round(y - h - w * 0.1)}L${round(x + w / 2)} ${round(y)}Z" fill="${shade(colour, r.between(0.6, 1))}"/><path d="M${round(x + w * 0.12)} ${round(y)}L${round(x + w * 0.12)} ${round(y - h)}L${round(x + w / 2)} ${round(y - h)}L${round(x + w / 2)} ${round(y)}Z" fill="#000" opacity=".28"/>`;
  })
    .reverse()
    .join('');
}

/** A festival tent with a striped roof. */
export function tent(x: number, y: number, size: number, colours: readonly string[]): string {
  const s = size;
  const stripes = Array.from({ length: 6 }, (_, index) => {
    const a = -s * 0.62 + (index * s * 1.24) / 6;
    const b = a + (s * 1.24) / 6;
    return `<path d="M0 ${round(-s * 0.95)}L${round(a)} ${round(-s * 0.48)}L${round(b)} ${round(-s * 0.48)}Z" fill="${colours[index % 2 ? 1 : 0]}"/><path d="M${round(a)} ${round(-s * 0.48)}L${round(b)} ${round(-s * 0.48)}L${round((a + b) / 2)} ${round(-s * 0.38)}Z" fill="${colours[index % 2 ? 1 : 0]}"/>`;
  });
  return `<g transform="translate(${round(x)} ${round(y)})"><rect x="${round(-s * 0.55)}" y="${round(-s * 0.46)}" width="${round(s * 1.1)}" height="${round(s * 0.46)}" fill="#e9e0cc"/><rect x="${round(-s * 0.16)}" y="${round(-s * 0.38)}" width="${round(s * 0.32)}" height="${round(s * 0.38)}" fill="#4a3f35"/><path d="M${round(s * 0.1)} ${round(-s * 0.46)}h${round(s * 0.45)}v${round(s * 0.46)}h${round(-s * 0.3)}Z" fill="#000" opacity=".14"/>${stripes.join('')}<path d="M0 ${round(-s * 0.95)}v${round(-s * 0.2)}" stroke="#3a3029" stroke-width="${round(s * 0.02)}"/><path d="M0 ${round(-s * 1.15)}l${round(s * 0.2)} ${round(s * 0.05)}l${round(-s * 0.2)} ${round(s * 0.06)}Z" fill="${colours[0]}"/></g>`;
}

/** A reel of thread seen from above or leaning. */
export function spool(x: number, y: number, size: number, colour: string, turn: number): string {
  const s = size;
  const threads = Array.from(
    { length: 11 },
    (_, row) =>
      `<path d="M${round(-s * 0.36)} ${round(-s * 0.42 + row * s * 0.084)}h${round(s * 0.72)}" stroke="#000" stroke-opacity="${row % 2 ? 0.16 : 0.07}" stroke-width="${round(s * 0.03)}"/>`,
  );
  return `<g transform="translate(${round(x)} ${round(y)}) rotate(${turn})"><rect x="${round(-s * 0.38)}" y="${round(-s * 0.5)}" width="${round(s * 0.86)}" height="${round(s * 1.12)}" rx="${round(s * 0.06)}" fill="#000" opacity=".26" transform="translate(${round(s * 0.08)} ${round(s * 0.08)})"/><rect x="${round(-s * 0.36)}" y="${round(-s * 0.46)}" width="${round(s * 0.72)}" height="${round(s * 0.92)}" fill="${colour}"/>${threads.join('')}<rect x="${round(-s * 0.36)}" y="${round(-s * 0.46)}" width="${round(s * 0.2)}" height="${round(s * 0.92)}" fill="#fff" opacity=".16"/><rect x="${round(s * 0.14)}" y="${round(-s * 0.46)}" width="${round(s * 0.22)}" height="${round(s * 0.92)}" fill="#000" opacity=".2"/><rect x="${round(-s * 0.46)}" y="${round(-s * 0.58)}" width="${round(s * 0.92)}" height="${round(s * 0.14)}" rx="${round(s * 0.05)}" fill="#caa678"/><rect x="${round(-s * 0.46)}" y="${round(s * 0.44)}" width="${round(s * 0.92)}" height="${round(s * 0.14)}" rx="${round(s * 0.05)}" fill="#a9835a"/></g>`;
}

/** Shears lying on a table. */
export function shears(x: number, y: number, size: number, turn: number): string {
  const s = size;
  const half = (flip: number): string =>
    `<g transform="rotate(${7 * flip})"><path d="M0 0L${round(s * 0.06 * flip)} ${round(-s * 0.9)}L${round(-s * 0.03 * flip)} ${round(-s * 0.1)}Z" fill="#c9cdd0"/><path d="M0 0L${round(s * 0.06 * flip)} ${round(-s * 0.9)}L${round(s * 0.02 * flip)} ${round(-s * 0.1)}Z" fill="#7d858a"/><path d="M0 0Q${round(-s * 0.06 * flip)} ${round(s * 0.2)} ${round(-s * 0.12 * flip)} ${round(s * 0.26)}" stroke="#23282b" stroke-width="${round(s * 0.06)}" fill="none"/><ellipse cx="${round(-s * 0.17 * flip)}" cy="${round(s * 0.42)}" rx="${round(s * 0.1)}" ry="${round(s * 0.17)}" fill="none" stroke="#9f3a2b" stroke-width="${round(s * 0.06)}"/></g>`;
  return `<g transform="translate(${round(x)} ${round(y)}) rotate(${turn})"><g opacity=".28" transform="translate(${round(s * 0.05)} ${round(s * 0.05)})"><path d="M0 0L${round(s * 0.1)} ${round(-s * 0.9)}L${round(-s * 0.1)} ${round(-s * 0.9)}Z" fill="#000"/></g>${half(1)}${half(-1)}<circle r="${round(s * 0.035)}" fill="#4b5256"/></g>`;
}

/** A panel of sailcloth with a shadow and a turned-up corner. */
export function panel(
  x: number,
  y: number,
  w: number,
  h: number,
  colour: string,
  turn: number,
  shape: 'square' | 'triangle' | 'kite' = 'square',
): string {
  const path =
    shape === 'square'
      ? `M0 0H${w}V${h}H0Z`
      : shape === 'triangle'
        ? `M0 ${h}L${w / 2} 0L${w} ${h}Z`
        : `M${w / 2} 0L${w} ${h * 0.36}L${w / 2} ${h}L0 ${h * 0.36}Z`;
  clips += 1;
  const id = `p${clips}`;
  const cell = (w / 12).toFixed(1);
  const weave = `<pattern id="${id}" patternUnits="userSpaceOnUse" width="${cell}" height="${cell}"><path d="M0 0h${cell}M0 0v${cell}" stroke="#fff" stroke-opacity=".26" stroke-width="1.5"/></pattern><linearGradient id="${id}s" x1="0" y1="0" x2=".7" y2="1"><stop offset=".45" stop-color="#000" stop-opacity="0"/><stop offset=".55" stop-color="#000" stop-opacity=".13"/></linearGradient>`;
  return `<g transform="translate(${round(x)} ${round(y)}) rotate(${turn})">${weave}<path d="${path}" fill="#000" opacity=".25" transform="translate(9 12)"/><path d="${path}" fill="${colour}"/><path d="${path}" fill="url(#${id})"/><path d="${path}" fill="url(#${id}s)"/><path d="${path}" fill="none" stroke="#fff" stroke-opacity=".55" stroke-width="2.5" stroke-dasharray="12 8" transform="translate(${w * 0.03} ${h * 0.03}) scale(.94)"/></g>`;
}
