import { v7 } from 'uuid';

/** A new UUIDv7: time-ordered, made by the application. */
export const newId = (): string => v7();
