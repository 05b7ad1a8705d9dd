import {
  copyVerified,
  factsOf,
  moveWithoutReplacing,
  removeFile,
  temporaryName,
} from '../../files/disk';
import { joinPath, splitPath } from '../../files/paths';
import type { Entry, Intake } from '../plan/entries';

/** A sidecar comes along under its file's new name. Safe to repeat. */
export async function placeSidecar(
  intake: Intake,
  entry: Entry,
): Promise<{ name: string; path: string } | null> {
  const source = entry.facts!.sidecar;
  if (!source) return null;
  if (intake.mode === 'in-place') return { name: splitPath(source).name, path: source };
  const name = `${entry.name}.xmp`;
  const folder = joinPath(intake.place.root, entry.folder!);
  const temporary = joinPath(folder, temporaryName(`${entry.id}-xmp`));
  const path = joinPath(folder, name);
  await copyVerified(source, temporary);
  if (await factsOf(path)) await removeFile(temporary);
  else await moveWithoutReplacing(temporary, path);
  return { name, path };
}
