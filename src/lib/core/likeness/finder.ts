import {
  agreement,
  meanProduct,
  signatureOf,
  spreadOf,
  turnedSignatures,
  type Signature,
} from './overlap';
import { ALIKE, distance, likenessesOf, likenessIndex, likenessOf, type Likeness } from './phash';

/** What a picture is found by. */
export interface Look {
  likeness: Likeness;
  signature: Signature;
}

/** A picture that others are looked for, in the eight positions in which they may lie. */
export interface Seeker {
  likenesses: Likeness[];
  signatures: Signature[];
}

/**
 * @param grey 32 × 32 grey values 0…255, by rows
 * @returns null for a picture without features
 */
export function lookOf(grey: ArrayLike<number>): Look | null {
  const likeness = likenessOf(grey);
  return likeness && { likeness, signature: signatureOf(grey) };
}

export const seekerOf = (grey: ArrayLike<number>): Seeker => ({
  likenesses: likenessesOf(grey),
  signatures: turnedSignatures(signatureOf(grey)),
});

/** Beyond this many bits nothing is laid over each other: half of all bits differ between any two pictures. */
const FAR = 24;
/** Pictures that correlate less than this as they lie never come together. */
const HOPELESS = 0.4;
/** So many of the likeliest are laid over each other; each takes half a millisecond. */
const MOST_LAID = 120;
/** Pictures laid over each other that agree less than this are others. Measured: docs/architecture.md; kept by tests/core/likeness.test.ts. */
const AGREE = 0.94;

interface KeptLook extends Look {
  id: number;
  mean: number;
  deviation: number;
}

export interface LikenessFinder {
  add: (look: Look, id: number) => void;
  /** Ids of pictures like this one, nearest first, each once; distance in bits. */
  near: (seeker: Seeker) => { id: number; distance: number }[];
}

/** Finds lookalikes: by the hash of the whole picture, and where that is unsure by laying pictures over each other. */
export function likenessFinder(): LikenessFinder {
  const index = likenessIndex();
  const kept: KeptLook[] = [];

  /** Of the candidates those that agree once laid over each other in one of their positions. */
  function laid({ likenesses, signatures }: Seeker, candidates: Found[]): Found[] {
    const spreads = signatures.map(spreadOf);
    const likely: { found: Found; turned: Signature; plain: number }[] = [];
    for (const found of candidates) {
      const { likeness, signature, mean, deviation } = kept[found.id]!;
      likenesses.forEach((turned, position) => {
        if (distance(turned, likeness) > FAR) return;
        const other = signatures[position]!;
        const spread = spreads[position]!;
        const covariance = meanProduct(signature, other) - mean * spread.mean;
        const plain = covariance / Math.max(1, deviation * spread.deviation);
        if (plain >= HOPELESS) likely.push({ found, turned: other, plain });
      });
    }
    const first = likely.sort((a, b) => b.plain - a.plain).slice(0, MOST_LAID);
    const agreed = first.filter(
      ({ found, turned }) => agreement(kept[found.id]!.signature, turned) >= AGREE,
    );
    return [...new Set(agreed.map(({ found }) => found))];
  }

  return {
    add(look, id) {
      index.add(look.likeness, kept.length);
      kept.push({ ...look, id, ...spreadOf(look.signature) });
    },
    near(seeker) {
      const candidates = index.near(seeker.likenesses, FAR);
      const near = candidates.filter(({ distance: bits }) => bits <= ALIKE);
      const unsure = candidates.filter(({ distance: bits }) => bits > ALIKE);
      return [...near, ...laid(seeker, unsure)]
        .sort((a, b) => a.distance - b.distance || a.id - b.id)
        .map(({ id, distance: bits }) => ({ id: kept[id]!.id, distance: bits }));
    },
  };
}

type Found = { id: number; distance: number };
