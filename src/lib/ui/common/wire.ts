/**
 * Types of the wire: what a path answers follows from the handler it leads to, so that nothing an answer holds is said a
 * second time here.
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

/** What a method answers at a path. */
export type AnswerOf<M extends Method, Path extends string> =
  Routes[RouteOf<Path>] extends Record<M, { readonly answers?: infer Answer }>
    ? Json<Exclude<Answer, Response | undefined>>
    : never;

/** Paths a method is answered at, as they are written with their parameters filled in. */
export type PathOf<M extends Method, Path extends string> = [AnswerOf<M, Path>] extends [never]
  ? never
  : Path;
