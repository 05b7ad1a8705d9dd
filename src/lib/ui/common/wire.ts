/**
 * Types of the wire: what a path takes and answers follows from the handler it leads to and the schema of its body, so
 * that nothing is said a second time here.
 */
export type Method = 'GET' | 'POST' | 'PATCH' | 'PUT' | 'DELETE';

type Routes = App.Wire;

/** What is left of a value once it went over the wire as JSON. */
type Json<T> = T extends Date
  ? string
  : T extends Response
    ? never
    : T extends readonly (infer One)[]
      ? number extends T['length']
        ? Json<One>[]
        : { [Key in keyof T]: Json<T[Key]> }
      : T extends object
        ? { [Key in keyof T]: Json<T[Key]> }
        : T;

type Segments<Path extends string> = Path extends `${infer First}/${infer Rest}`
  ? [First, ...Segments<Rest>]
  : [Path];

/** Whether the parts of a path are those of a route, a parameter standing for any one. */
type Fits<Path, Route> = Path extends [infer One, ...infer More]
  ? Route extends [infer Other, ...infer Others]
    ? Other extends `[...${string}]`
      ? true
      : Other extends `[${string}]`
        ? Fits<More, Others>
        : One extends Other
          ? Fits<More, Others>
          : false
    : false
  : Route extends []
    ? true
    : false;

type Matching<Path extends string> = {
  [Route in keyof Routes & string]: Fits<Segments<Path>, Segments<Route>> extends true
    ? Route
    : never;
}[keyof Routes & string];

type RouteOf<Path extends string> = Path extends keyof Routes ? Path : Matching<Path>;

/** What a method's handler gives back at a path, in a list of one; never where there is no such door. */
type Given<M extends Method, Path extends string> = [RouteOf<Path>] extends [never]
  ? never
  : Routes[RouteOf<Path>] extends Record<M, { readonly answers?: infer Answer }>
    ? [Answer]
    : never;

/** What is answered where there is no such door: nothing that anybody could use. */
interface NoDoor<Path> {
  readonly 'there is no such door': Path;
}

/** What a method answers at a path. */
export type AnswerOf<M extends Method, Path extends string> = [Given<M, Path>] extends [never]
  ? NoDoor<Path>
  : Given<M, Path> extends [infer Answer]
    ? Json<Exclude<Answer, Response | undefined>>
    : never;

/** What a method takes at a path: the body as its schema reads it, or nothing. */
export type BodyOf<M extends Method, Path extends string> = [RouteOf<Path>] extends [never]
  ? never
  : Routes[RouteOf<Path>] extends Record<M, { readonly takes?: infer Taken }>
    ? Taken
    : never;

/** The arguments behind a path: none where nothing is taken. */
export type Sent<M extends Method, Path extends string> = [BodyOf<M, Path>] extends [undefined]
  ? []
  : [body: BodyOf<M, Path>];

/** What a path is asked behind it: its parameters as their schema reads them, or none. */
type QueryOf<Path extends string> = [RouteOf<Path>] extends [never]
  ? never
  : Routes[RouteOf<Path>] extends Record<'GET', { readonly asks?: infer Asked }>
    ? Asked
    : never;

/** Arguments behind a path that is asked: none where it takes none, and none needed where none is. */
export type Asking<Path extends string> = [QueryOf<Path>] extends [undefined]
  ? []
  : // eslint-disable-next-line @typescript-eslint/no-empty-object-type -- whether all may be left out
    {} extends QueryOf<Path>
    ? [query?: QueryOf<Path>]
    : [query: QueryOf<Path>];
