import { z } from 'zod';
import { LONGEST_HELD, MOST_PIECES, type Fitting, type Piece } from '../footage/sequence';
import { pickedSchema } from '../query/picked';
import { LAST_FRAME } from '../footage/span';

const frame = z.number().int().min(0).max(LAST_FRAME);
const seconds = z.number().min(0.04).max(LONGEST_HELD);
const cut = z
  .object({ id: z.uuid(), item: z.uuid(), from: frame, to: frame })
  .strict()
  .refine(({ from, to }) => to > from, 'a piece ends after it begins');
const held = z.object({ id: z.uuid(), item: z.uuid().nullable(), seconds }).strict();
export const piecesSchema = z.array(z.union([cut, held])).max(MOST_PIECES);
const rate = z.number().min(1).max(120);
const name = z.string().trim().min(1, 'a name is needed').max(200);

export const newSequenceSchema = z.object({
  name,
  /** Spans, clips and stills it begins with. */
  items: pickedSchema.optional(),
});
/** What changes of one; whole pieces as they were seen, so that another's change meanwhile is told. */
export const sequenceChangeSchema = z
  .object({
    name,
    note: z.string().max(20_000),
    rate,
    stills: seconds,
    sound: z.boolean(),
    pieces: piecesSchema,
    /** Pieces it had when it was looked at. */
    seen: piecesSchema,
    /** Items to put in, each as a whole, before a piece or at the end. */
    add: z.object({
      items: pickedSchema,
      before: z.uuid().nullable(),
    }),
  })
  .partial();
/** The same, with what is to be put in by its ids. */
export type SequenceChange = Omit<z.output<typeof sequenceChangeSchema>, 'add'> & {
  add?: { items: readonly string[]; before: string | null };
};

/** A sequence as it is listed. */
export interface ListedSequence {
  id: string;
  name: string;
  note: string;
  pieces: number;
  cover: string[];
}
/** A piece with what its item tells; of one that may not be seen nothing is told. */
export interface ShownPiece extends Fitting {
  piece: Piece;
  kind: 'span' | 'clip' | 'sound' | 'still' | 'gap' | 'unseen';
  number: string | null;
  picture: string | null;
  lastPicture: string | null;
  /** Frames of its clip; null where they are not known. */
  frames: number | null;
  /** Timecode of its clip's first frame. */
  start: string | null;
}
export interface ShownSequence {
  id: string;
  name: string;
  note: string;
  rate: number;
  stills: number;
  sound: boolean;
  pieces: ShownPiece[];
}
