import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { create as openFont, type Font } from 'fontkit';
import { APPLICATION } from '../house/application';

/** One line of text as outlines. */
export interface Lettered {
  svg: string;
  /** px */
  width: number;
}

/** Letter a line with a font: glyph by glyph, from its outlines. @param x left edge @param y baseline, px */
export function letter(font: Font, text: string, size: number, x: number, y: number): Lettered {
  const scale = size / font.unitsPerEm;
  const run = font.layout(text);
  let at = 0;
  const glyphs = run.glyphs.map((glyph, index) => {
    const path = `<path transform="translate(${at} 0)" d="${glyph.path.toSVG()}"/>`;
    at += run.positions[index]!.xAdvance;
    return path;
  });
  const svg = `<g transform="translate(${x} ${y}) scale(${scale} ${-scale})">${glyphs.join('')}</g>`;
  return { svg, width: at * scale };
}

const FACES = {
  book: 'newsreader/files/newsreader-latin-wght-normal.woff2',
  plain: 'hanken-grotesk/files/hanken-grotesk-latin-wght-normal.woff2',
  mono: 'sometype-mono/files/sometype-mono-latin-wght-normal.woff2',
};
export type Face = keyof typeof FACES;

const faces = new Map<Face, Promise<Font>>();

async function openFace(face: Face): Promise<Font> {
  const path = join(APPLICATION, 'node_modules/@fontsource-variable', FACES[face]);
  return openFont(await readFile(path)) as Font;
}

/** One of the fonts that ship with the application. */
export function faceOf(face: Face): Promise<Font> {
  const known = faces.get(face) ?? openFace(face);
  faces.set(face, known);
  return known;
}
