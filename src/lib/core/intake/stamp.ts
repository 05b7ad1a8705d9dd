import type { FieldKey, RecordValues } from '../records/fields';
import type { Stamp } from './plan';

const isBlank = (value: unknown): boolean =>
  value === '' || (Array.isArray(value) && value.length === 0);

/** Text after text: what is there already is not said twice. */
function added(before: string, more: string): string {
  if (!before) return more;
  return before.includes(more) ? before : `${before}\n${more}`;
}

/** A record under a stamp. Blank values of the stamp change nothing, whatever its way. */
export function stamped(record: RecordValues, { way, values }: Stamp): RecordValues {
  const next: RecordValues = { ...record };
  for (const [key, value] of Object.entries(values) as [
    keyof Stamp['values'] & FieldKey,
    unknown,
  ][]) {
    if (value === undefined || isBlank(value)) continue;
    const before = record[key];
    if (isBlank(before) || way === 'overwrite') Object.assign(next, { [key]: value });
    else if (way === 'add')
      Object.assign(next, {
        [key]: Array.isArray(before)
          ? [...before, ...(value as string[]).filter((one) => !before.includes(one))]
          : added(before, value as string),
      });
  }
  return next;
}
