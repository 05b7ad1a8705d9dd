import type { Piece } from '#core/footage/sequence';
import type { ColumnType, Generated, JSONColumnType, RawBuilder } from 'kysely';
import type { DeedName } from '#core/deeds/kinds';
import type { LeftOut } from '#core/intake/leftOut';
import type { Mode, Plan } from '#core/intake/plan';
import type { ContributorEntry, SpotEntry, StampLine, TermLabel } from '#core/lists/entries';
import type { Mark } from '#core/footage/marks';
import type { Kind } from '#core/kinds/kinds';
import type { JobState } from '#core/live/messages';
import type { Role } from '#core/people/roles';
import type { Query } from '#core/query/tree';
import type { Access } from '#core/access/access';
import type { FieldKey, RecordChange, RecordValues } from '#core/records/fields';
import type { Provenance } from '#core/records/provenance';
import type { EntryPart, FileFacts, Looked, Placed, Source, SourceFacts } from '#core/intake/facts';
import type { FileRole } from '#core/holdings/roles';
import type { Alike } from '#core/likeness/alike';
import type { Disputes, ToldValues } from '#core/records/reconcile';
import type { Technical } from '#core/records/technical';
import type { StageColour, StageShape } from '#core/stages/stages';

/** Column types of ./migrations, in camel case. Wall-clock times are text without a zone. */
type Time = ColumnType<Date, Date | string | undefined, Date | string>;
type OptionalTime = ColumnType<Date | null, Date | string | null | undefined, Date | string | null>;
type Json<T> = ColumnType<T, string, string>;
type Big = ColumnType<string, string | bigint | number, string | bigint | number>;

export interface Database {
  person: {
    id: string;
    name: string;
    email: string;
    emailVerified: Generated<boolean>;
    image: string | null;
    role: Role;
    /** Since when a keeper lets them in no more. */
    shutOutAt: OptionalTime;
    createdAt: Time;
    updatedAt: Time;
  };
  session: {
    id: string;
    personId: string;
    /** SHA-256 of the token in hex. */
    token: string;
    expiresAt: Time;
    ipAddress: string | null;
    userAgent: string | null;
    createdAt: Time;
    updatedAt: Time;
  };
  tryCount: { key: string; tries: number; since: Time };
  knownDevice: { tokenHash: string; personId: string; usedAt: Time };
  remembered: { personId: string; key: string; value: JSONColumnType<object> };
  place: {
    id: string;
    name: string;
    root: string;
    handsOff: Generated<boolean>;
    /** Records go into sidecars, never into the files. */
    beside: Generated<boolean>;
    shared: Generated<boolean>;
    createdAt: Time;
    here: Generated<boolean>;
    awaySince: OptionalTime;
    watched: Generated<boolean>;
    /** Why not all of its folders can be watched, in the system's words. */
    deaf: string | null;
    lookedAt: OptionalTime;
  };
  folder: { id: string; placeId: string; parentId: string | null; path: string; name: string };
  stage: {
    id: string;
    name: string;
    shape: StageShape;
    colour: StageColour;
    key: string | null;
    position: number;
    formerly: Generated<string[]>;
    retired: Generated<boolean>;
  };
  term: {
    id: string;
    label: string;
    note: Generated<string>;
    retired: Generated<boolean>;
    ord: ColumnType<number, never, never>;
  };
  termBroader: { termId: string; broaderId: string };
  /** Of a pair the lesser id first. */
  termRelated: { termId: string; relatedId: string };
  termLabel: { termId: string; kind: TermLabel['kind']; lang: string; label: string };
  contributor: { id: string } & ContributorEntry;
  stamp: { id: string; name: string; project: string; lines: Json<StampLine[]> };
  accession: {
    id: string;
    year: number;
    number: number;
    title: string;
    source: Json<Source>;
    plan: Json<Plan>;
    /** Absolute path text of the folder read from. */
    root: string;
    mode: Mode;
    placeId: string;
    state: Generated<'planned' | 'running' | 'paused' | 'done' | 'cancelled' | 'failed'>;
    createdBy: string | null;
    createdAt: Time;
    startedAt: OptionalTime;
    finishedAt: OptionalTime;
    reason: ColumnType<string | null, string | null | undefined, string | null>;
    /** Path texts of its ASC MHL manifests, oldest first. */
    manifests: Generated<string[]>;
  };
  accessionEntry: {
    id: string;
    accessionId: string;
    position: number;
    sourcePath: string;
    size: number;
    state: Generated<'planned' | 'placing' | 'done' | 'skipped' | 'failed'>;
    reason: string | null;
    folder: string | null;
    name: string | null;
    contentHash: string | null;
    facts: ColumnType<FileFacts | null, string | null | undefined, string | null>;
    itemId: string | null;
    decision: Generated<'new' | 'again' | 'version' | 'describe'>;
    versionOf: ColumnType<string | null, string | null | undefined, string | null>;
    sourceState: Generated<'kept' | 'due' | 'removed' | 'refused'>;
    sourceReason: ColumnType<string | null, string | null | undefined, string | null>;
    sourceFacts: ColumnType<SourceFacts | null, string | null | undefined, string | null>;
    looked: ColumnType<Looked | null, string | null | undefined, string | null>;
    placed: ColumnType<Placed | null, string | null | undefined, string | null>;
    verifiedAt: OptionalTime;
    secondState: Generated<'none' | 'due' | 'done' | 'failed'>;
    secondReason: ColumnType<string | null, string | null | undefined, string | null>;
    clockShift: ColumnType<number | null, number | null | undefined, number | null>;
    /** Folder below the source that is one item; null for a file alone. */
    bundleFolder: ColumnType<string | null, string | null | undefined, string | null>;
    parts: ColumnType<EntryPart[] | null, string | null | undefined, string | null>;
    /** What a sheet's row says of it. */
    given: ColumnType<RecordChange | null, string | null | undefined, string | null>;
    /** A manifest lists it. */
    listed: Generated<boolean>;
  };
  intakePlan: {
    id: string;
    name: string;
    mode: Mode;
    placeId: string | null;
    plan: Json<Plan>;
    createdBy: string | null;
    createdAt: Time;
  };
  setting: { key: string; value: JSONColumnType<object> };
  counter: { placeId: string; pattern: string; scope: string; next: number };
  namedCounter: { name: string; next: number };
  keptPattern: {
    id: string;
    purpose: 'naming' | 'filing';
    name: string;
    pattern: string;
    choices: ColumnType<Record<string, string | boolean>, string, string>;
    madeBy: string | null;
    madeAt: Generated<Date>;
  };
  lineage: {
    itemId: string;
    kind: LineageKind;
    ofId: string;
    createdBy: string | null;
    createdAt: Time;
  };
  item: {
    id: string;
    number: string;
    accessionId: string;
    kind: Kind;
    mediaType: string;
    format: string;
    originalName: string;
    version: Generated<number>;
    title: Generated<string>;
    caption: Generated<string>;
    creator: Generated<string[]>;
    creditLine: Generated<string>;
    copyrightNotice: Generated<string>;
    rating: Generated<number>;
    stageId: string | null;
    takenEdtf: string | null;
    takenFrom: string | null;
    takenTo: string | null;
    takenOffset: number | null;
    provenance: Json<Provenance>;
    technical: Json<Technical>;
    record: ColumnType<Partial<RecordValues>, string | undefined, string>;
    /** Fields that were changed here and in the file since both agreed. */
    disputes: ColumnType<Disputes, string | undefined, string>;
    ord: ColumnType<number, never, never>;
    numberKey: ColumnType<number, never, never>;
    camera: Generated<string>;
    latitude: number | null;
    longitude: number | null;
    width: number | null;
    height: number | null;
    duration: number | null;
    noPicture: string | null;
    noPictureDetail: ColumnType<string | null, string | null | undefined, string | null>;
    likeness: ColumnType<string | null, string | null | undefined, string | null>;
    signature: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>;
    lookNo: ColumnType<
      string | null,
      string | null | undefined,
      string | null | RawBuilder<string>
    >;
    likenessMade: Generated<boolean>;
    /** Frames that are nearly the same, and whether it stands for them. */
    burst: ColumnType<string | null, never, string | null>;
    burstLead: ColumnType<boolean, never, boolean | RawBuilder<boolean>>;
    burstSize: ColumnType<number, never, number>;
    burstReason: ColumnType<string | null, never, string | null | RawBuilder<string | null>>;
    burstByHand: ColumnType<boolean, never, boolean>;
    /** Main colours of its picture, the largest share first: `#a63`. */
    colours: Generated<string[]>;
    /** Version of what was read from its file. */
    reading: Generated<number>;
    createdAt: Time;
    deletedAt: OptionalTime;
    /** The strictest that marks say; kept by the database. */
    access: ColumnType<Access, never, never>;
    /** Of a span: the item it is of, and its frames there, from and to before. */
    ofId: ColumnType<string | null, string | null | undefined, never>;
    fromFrame: ColumnType<number | null, number | null | undefined, number>;
    toFrame: ColumnType<number | null, number | null | undefined, number>;
    /** A span that means its first frame alone. */
    isMarker: ColumnType<boolean, never, never>;
    mark: ColumnType<Mark | '', never, never>;
    /** Moments of its clip its first and last frames are pictured at, ms. */
    firstMs: number | null;
    lastMs: number | null;
    /** Item whose files it stands on: its own id, or the item it is of. */
    holderId: ColumnType<string, never, never>;
  };
  accessMark: {
    id: string;
    placeId: string | null;
    folderId: string | null;
    accessionId: string | null;
    collectionId: string | null;
    itemId: string | null;
    state: Exclude<Access, 'open'>;
    note: Generated<string>;
  };
  itemTerm: { itemId: string; termId: string };
  /** What an item is found by, as a tsvector. */
  itemWords: { itemId: string; words: string };
  spot: SpotEntry & { id: string };
  /** A track of a receiver, as it was read. */
  track: {
    id: string;
    name: string;
    hash: string;
    points: number;
    stretches: number;
    fromMs: ColumnType<string, number, number>;
    toMs: ColumnType<string, number, number>;
    stretched: ColumnType<[ms: number, latitude: number, longitude: number][][], string, never>;
    broughtBy: string | null;
    broughtAt: Time;
  };
  file: {
    id: string;
    itemId: string;
    placeId: string;
    folderId: string;
    name: string;
    role: FileRole;
    size: number;
    modifiedNs: Big;
    inode: Big;
    contentHash: string;
    essenceHash: string | null;
    /** Content into which nothing can be written: the record goes beside it, until another program saves it anew. */
    refusedHash: ColumnType<string | null, string | null | undefined, string | null>;
    /** Key of its renditions: the essence with its orientation, else the content hash. */
    pictureKey: string;
    writtenVersion: Generated<number>;
    writeProblem: string | null;
    /** What it said when it was last read or written; null where nobody noted it. */
    told: ColumnType<ToldValues | null, string | null | undefined, string | null>;
    /** Markers its XMP told of when both last agreed; null: it was not asked yet. */
    toldMarkers: ColumnType<string[] | null, never, string[]>;
    state: Generated<'present' | 'missing' | 'changed'>;
    verifiedAt: OptionalTime;
    missingSince: OptionalTime;
  };
  scan: {
    id: string;
    source: Json<Source>;
    root: string;
    state: Generated<'running' | 'done' | 'failed'>;
    reason: string | null;
    createdBy: string | null;
    createdAt: Time;
    alikeDone: Generated<boolean>;
    leftOut: ColumnType<LeftOut[], string | undefined, string>;
  };
  scanFile: {
    scanId: string;
    position: number;
    path: string;
    size: number;
    modifiedNs: Big;
    lookedAt: Generated<boolean>;
    kind: Generated<Kind>;
    format: Generated<string>;
    contentHash: string | null;
    looked: ColumnType<Looked | null, string | null | undefined, string | null>;
    /** Fields in which the file tells something else than the item that holds its picture. */
    heldDiffers: Generated<FieldKey[]>;
    heldItemId: string | null;
    takenFrom: string | null;
    takenPrecision: string | null;
    camera: Generated<string>;
    creator: Generated<string>;
    title: Generated<string>;
    aspect: Generated<number>;
    problem: string | null;
    essenceHash: ColumnType<string | null, string | null | undefined, string | null>;
    likeness: ColumnType<string | null, string | null | undefined, string | null>;
    signature: ColumnType<Buffer | null, Buffer | null | undefined, Buffer | null>;
    twinPosition: ColumnType<number | null, number | null | undefined, number | null>;
    alike: ColumnType<Alike[], string | undefined, string>;
  };
  operation: {
    id: string;
    kind: DeedName | 'rewrite';
    summary: string;
    state: Generated<'planned' | 'doing' | 'done' | 'undone' | 'failed'>;
    actorId: string | null;
    undoes: string | null;
    total: Generated<number>;
    /** Steps of moves before this position were begun. */
    begun: Generated<number>;
    createdAt: Time;
    finishedAt: OptionalTime;
    /** What it put into the wastebasket was removed for good. */
    emptiedAt: OptionalTime;
  };
  operationStep: {
    operationId: string;
    position: number;
    action: 'rename' | 'record' | 'rewrite' | 'folder' | 'move' | 'entry' | 'copy' | 'uncopy';
    itemId: string | null;
    fileId: string | null;
    before: Json<Record<string, unknown>>;
    after: Json<Record<string, unknown>>;
    state: Generated<'planned' | 'doing' | 'done' | 'undone' | 'failed'>;
    reason: string | null;
  };
  /** Large changes: what is wished, and what came of it. */
  deedWish: {
    jobId: string;
    verb: string;
    wish: Json<object>;
    outcome: ColumnType<object | null, string | null | undefined, string | null>;
  };
  stamping: {
    operationId: string;
    itemIds: string[];
    /** Of the items, as they were shown. */
    versions: number[];
    lines: Json<StampLine[]>;
  };
  clipLook: {
    itemId: string;
    /** s */
    times: number[];
    /** Signed 64-bit integers in decimal. */
    frames: string[];
    bands: number[];
  };
  rendition: {
    pictureKey: string;
    recipe: string;
    width: number | null;
    height: number | null;
    bytes: number | null;
    problem: string | null;
    madeAt: Time;
    /** When it was last looked at, to the day. */
    usedAt: Generated<Date>;
  };
  sequence: {
    id: string;
    name: string;
    note: string;
    rate: number;
    stills: number;
    sound: boolean;
    pieces: ColumnType<Piece[], string, string>;
    createdBy: string | null;
    createdAt: OptionalTime;
  };
  collection: {
    id: string;
    name: string;
    note: Generated<string>;
    kind: Generated<'hand-picked' | 'standing'>;
    query: ColumnType<Query | null, string | null | undefined, string | null>;
    parentId: string | null;
    createdBy: string | null;
    createdAt: Time;
    deletedAt: OptionalTime;
  };
  collectionItem: {
    collectionId: string;
    itemId: string;
    position: number;
    note: Generated<string>;
    addedAt: Time;
  };
  readingRoom: {
    id: string;
    tokenHash: string;
    title: string;
    greeting: Generated<string>;
    collectionId: string;
    sizes: string[];
    expiresAt: Time;
    revokedAt: OptionalTime;
    createdBy: string | null;
    createdAt: Time;
  };
  roomVisit: { id: string; roomId: string; firstAt: Time; lastAt: Time; name: Generated<string> };
  roomPick: { visitId: string; itemId: string; at: Time };
  roomDownload: {
    id: string;
    roomId: string;
    visitId: string | null;
    itemId: string;
    size: string;
    at: Time;
  };
  job: {
    id: string;
    task: string;
    title: string;
    subject: Generated<string>;
    parentId: string | null;
    itemId: string | null;
    accessionId: string | null;
    operationId: string | null;
    state: Generated<JobState>;
    wish: Generated<'run' | 'pause' | 'cancel'>;
    done: Generated<number>;
    total: Generated<number>;
    unit: Generated<string>;
    attempts: Generated<number>;
    /** When the first of its attempts began that got no further. */
    triedSince: OptionalTime;
    reason: string | null;
    createdBy: string | null;
    createdAt: Time;
    startedAt: OptionalTime;
    finishedAt: OptionalTime;
  };
  apiToken: {
    id: string;
    personId: string;
    name: string;
    tokenHash: string;
    scopes: string[];
    createdAt: Time;
    usedAt: OptionalTime;
    /** null: it was made before tokens ended. */
    expiresAt: OptionalTime;
    revokedAt: OptionalTime;
  };
  /** What changed, by transaction; `subject` is an item, or what many items have. */
  changeLog: {
    no: ColumnType<number, never, never>;
    xid: ColumnType<string, never, never>;
    kind: string;
    subject: string;
    at: Time;
  };
  worker: { id: string; host: string; pid: number; locks: string[]; seenAt: Time };
}

export type LineageKind =
  | 'edited from'
  | 'version of'
  | 'part of'
  | 'output of'
  | 'same shot as'
  | 'twin of'
  | 'lookalike of';
