/** What PostgreSQL refuses, by its code (appendix A of its manual). */
const codeOf = (error: unknown): string => String((error as { code?: unknown } | null)?.code ?? '');

const NONSENSE = new Set(['22001', '22003', '22007', '22008', '22021', '22P02', '22P05', '54001']);
const CANCELLED = '57014';
const AWAY = /^(08|57P0|53300)|^(ECONNREFUSED|ECONNRESET)$/;

/** A value lies outside what its column can hold. */
export const isNonsense = (error: unknown): boolean => NONSENSE.has(codeOf(error));

/** Something of this name is there already. */
export const isTaken = (error: unknown): boolean => codeOf(error) === '23505';

/** The statement was ended: it took too long, or nobody waits for it any more. */
export const isCancelled = (error: unknown): boolean => codeOf(error) === CANCELLED;

/** The database cannot be asked at the moment. */
export const isAway = (error: unknown): boolean =>
  AWAY.test(codeOf(error)) || /timeout exceeded when trying to connect/.test(String(error));
