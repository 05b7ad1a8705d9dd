/**
 * Whether an ICC profile (ICC.1:2022, 9.2.40 ff.: colorants of matrix profiles, adapted to D50) tells colours that sRGB
 * does not have. Profiles without colorants (printers, greys) do not.
 */
export function isWideGamut(icc: Uint8Array): boolean {
  const view = new DataView(icc.buffer, icc.byteOffset, icc.byteLength);
  const corners = ['rXYZ', 'gXYZ', 'bXYZ'].map((name) => chromaticity(view, name));
  const [red, green, blue] = corners;
  if (!red || !green || !blue) return false;
  return areaOf(red, green, blue) > SRGB_AREA * WIDER;
}

type Point = [x: number, y: number];
const TAGS_AT = 128;
const MOST_TAGS = 200;
/** Rounding and near relatives of sRGB are no wider. */
const WIDER = 1.08;

const areaOf = ([ax, ay]: Point, [bx, by]: Point, [cx, cy]: Point): number =>
  Math.abs((bx - ax) * (cy - ay) - (cx - ax) * (by - ay)) / 2;

/** Colorants of sRGB, adapted to D50 (IEC 61966-2-1). */
const SRGB_AREA = areaOf([0.6485, 0.3309], [0.3212, 0.5979], [0.1559, 0.066]);

function chromaticity(view: DataView, name: string): Point | null {
  if (view.byteLength < TAGS_AT + 4) return null;
  const tags = Math.min(view.getUint32(TAGS_AT), MOST_TAGS);
  for (let tag = 0; tag < tags; tag += 1) {
    const entry = TAGS_AT + 4 + tag * 12;
    if (entry + 12 > view.byteLength) return null;
    const signature = String.fromCharCode(...[0, 1, 2, 3].map((at) => view.getUint8(entry + at)));
    if (signature !== name) continue;
    const at = view.getUint32(entry + 4);
    if (at + 20 > view.byteLength) return null;
    const [x, y, z] = [8, 12, 16].map((own) => view.getInt32(at + own) / 65_536) as [
      number,
      number,
      number,
    ];
    const sum = x + y + z;
    return sum > 0 ? [x / sum, y / sum] : null;
  }
  return null;
}
