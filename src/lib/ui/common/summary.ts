import type { CardContent } from '#core/wire/shown';
import type { Picked } from '#core/query/picked';
import { api } from './api';

let asked: { key: string; answer: Promise<CardContent> } | null = null;

/** What is said of a choice of items; those who ask for the same while it is on its way get one answer. */
export function summaryOf(ids: Picked): Promise<CardContent> {
  const key = JSON.stringify(ids);
  if (asked?.key === key) return asked.answer;
  const mine = { key, answer: api.post('/api/records', { ids }) };
  asked = mine;
  const done = (): void => {
    if (asked === mine) asked = null;
  };
  mine.answer.then(done, done);
  return mine.answer;
}
