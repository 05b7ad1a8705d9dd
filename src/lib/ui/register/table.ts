import type { Picked } from '#core/query/picked';
import type { Column } from '#core/register/columns';
import { Problem } from '../common/api';

/** What is chosen as CSV, with some columns. */
export async function tableText(ids: Picked, columns: readonly Column[]): Promise<string> {
  const response = await fetch('/api/catalogue/csv', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ ids, fields: columns.map(({ key }) => key) }),
  });
  const text = await response.text();
  if (response.ok) return text;
  const { title = 'The table could not be made.' } = JSON.parse(text || '{}') as { title?: string };
  throw new Problem(title, '', response.status);
}

/** The same as a file, marked as UTF-8 for spreadsheets. */
export async function saveTable(ids: Picked, columns: readonly Column[]): Promise<void> {
  const text = await tableText(ids, columns);
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob(['\ufeff', text], { type: 'text/csv' }));
  link.download = 'register.csv';
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
}
