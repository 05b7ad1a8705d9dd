import type { BigIntStats } from 'node:fs';
import type { SourceFacts } from '#core/intake/facts';

/** What a source file is known by until it may be deleted. */
export const sourceFactsFrom = (facts: BigIntStats): SourceFacts => ({
  size: Number(facts.size),
  modifiedNs: String(facts.mtimeNs),
  inode: String(facts.ino),
  changedNs: String(facts.ctimeNs),
});

/** Whether a source file still is what was noted. */
export const isStill = (facts: BigIntStats, noted: SourceFacts): boolean => {
  const now = sourceFactsFrom(facts);
  return (
    now.size === noted.size && now.modifiedNs === noted.modifiedNs && now.inode === noted.inode
  );
};
