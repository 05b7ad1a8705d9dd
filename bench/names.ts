import { parseWallClock } from '#core/records/taken';
import { previewRename, type RenameSubject } from '#core/naming/rename';
import { measure, type BenchLine } from './report';
import { randomOf } from './material';

const MS_DAY = 86_400_000;
const PATTERN = '{taken yyyyMMdd}-{counter 0001 by day}';

/** Subjects in fifty folders, taken over a year, some of whose names meet what lies there. */
function subjects(count: number): RenameSubject[] {
  const next = randomOf(12);
  const folders = Array.from({ length: 50 }, (_, at) => `folder ${at}`);
  return Array.from({ length: count }, (_, at): RenameSubject => {
    const takenText = new Date(Date.UTC(2025, 0, 1) + Math.floor(next() * 365) * MS_DAY)
      .toISOString()
      .slice(0, 19);
    return {
      id: String(at),
      name: `HRN_${at}.JPG`,
      original: `HRN_${at}.JPG`,
      values: {},
      folder: folders[at % folders.length]!,
      takenText,
      taken: parseWallClock(takenText),
      takenDay: Number(takenText.slice(0, 10).replaceAll('-', '')),
      precision: 'moment',
    };
  });
}

/** A preview of so many names, some of which clash, against nothing but putting as many texts together. */
export async function rename(count: number, runs: number): Promise<BenchLine> {
  const all = subjects(count);
  const held = new Map([['folder 0', new Set(['20250101-0001.jpg', '20250102-0001.jpg'])]]);
  const run = (): Promise<number> => {
    const lines = previewRename(PATTERN, all, held, { clash: 'refuse', extension: 'lower' });
    return Promise.resolve(lines.length && 0);
  };
  const days = all.map(({ takenText }) => takenText!.slice(0, 10));
  const texts = (): string[] => days.map((day, at) => `${day}-${String(at).padStart(4, '0')}.jpg`);
  await run();
  texts();
  return measure(
    'rename',
    count,
    runs,
    () => timed(run),
    () => timed(() => Promise.resolve(texts())),
  );
}

async function timed(work: () => Promise<unknown>): Promise<number> {
  const began = performance.now();
  await work();
  return (performance.now() - began) / 1000;
}
