/** The part of fontkit that specimens need; the package ships no types of its own. */
declare module 'fontkit' {
  export interface Glyph {
    path: { toSVG(): string };
  }
  export interface Font {
    unitsPerEm: number;
    layout(text: string): { glyphs: Glyph[]; positions: { xAdvance: number }[] };
  }
  export function create(buffer: Uint8Array): Font | { fonts: Font[] };
}
