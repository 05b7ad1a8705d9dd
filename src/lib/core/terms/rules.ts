/** What the house wants of terms that are given. */
export interface TermRules {
  /** A term brings its broader ones along. */
  broader: boolean;
  /** Where terms stand is told in files beside the flat keywords; `removed`: it was once, and goes. */
  hierarchy: 'untouched' | 'written' | 'removed';
}
export const NO_TERM_RULES: TermRules = { broader: false, hierarchy: 'untouched' };

interface Branch {
  label: string;
  isGiven: boolean;
  below: Branch[];
}

/** What ExifTool's structures part by stands behind a bar. */
const escaped = (text: string): string => text.replace(/[|,{}[\]]/g, '|$&');

const told = ({ label, isGiven, below }: Branch): string =>
  `{Keyword=${escaped(label)},Applied=${isGiven ? 'True' : 'False'}${
    below.length > 0 ? `,Children=[${below.map(told).join(',')}]` : ''
  }}`;

/**
 * Terms with the ways that lead down to them, as the keywords schema of the MWG (2.0, 6.2) holds them, in the notation of
 * ExifTool's structures; null where there are none.
 */
export function hierarchyOf(given: readonly string[], ways: readonly string[][]): string | null {
  const top: Branch[] = [];
  for (const way of ways) {
    let level = top;
    for (const label of way) {
      const isGiven = given.includes(label);
      let branch = level.find((one) => one.label === label);
      if (!branch) level.push((branch = { label, isGiven, below: [] }));
      level = branch.below;
    }
  }
  return top.length > 0 ? `{Hierarchy=[${top.map(told).join(',')}]}` : null;
}
