/** The part of edtf that dates need; the package ships no types of its own. */
declare module 'edtf' {
  /** Parse EDTF text; `min` and `max` are milliseconds since 1970, inclusive. Throws on anything else. */
  export default function edtf(text: string): { min: number; max: number };
}
