/** The closed set of errors the archive speaks of. The edge turns them into RFC 9457 problem details. */
export const ERROR_CODES = {
  'bad-request': 400,
  'sign-in-needed': 401,
  'not-allowed': 403,
  'not-found': 404,
  conflict: 409,
  'outside-place': 400,
  'name-refused': 422,
  'query-unclear': 422,
  'pattern-unclear': 422,
  'value-refused': 400,
  'room-closed': 410,
  'too-many-tries': 429,
  'wrong-host': 421,
  'too-slow': 503,
  'too-large': 413,
  'file-unreadable': 422,
  'file-changed': 409,
  'source-away': 409,
  'confirm-needed': 409,
  'disk-full': 507,
  'tool-missing': 503,
  'tool-failed': 500,
  'setting-refused': 500,
  'database-away': 503,
  cancelled: 409,
  unexpected: 500,
} as const;

export type ErrorCode = keyof typeof ERROR_CODES;

/** An error with a stable code, one sentence for people and data for programs. */
export class ArchiveError extends Error {
  constructor(
    readonly code: ErrorCode,
    sentence: string,
    readonly data: Record<string, unknown> = {},
    options?: ErrorOptions,
  ) {
    super(sentence, options);
    this.name = 'ArchiveError';
  }

  /** HTTP status that fits the code. */
  get status(): number {
    return ERROR_CODES[this.code];
  }
}

/** The sentence of anything thrown. */
export function sentenceOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
