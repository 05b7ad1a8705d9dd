import { execFileSync } from 'node:child_process';

export interface ZipEntry {
  name: string;
  /** Hexadecimal. */
  bytes: string;
  /** Unix mode. */
  mode?: number;
  /** Lies there as it is: a package's media type is to be read without unpacking. */
  stored?: boolean;
}

/** Write a ZIP with a program of others. */
export function writeZip(path: string, entries: ZipEntry[]): void {
  execFileSync(
    'python3',
    [
      '-c',
      `
import json, sys, zipfile
with zipfile.ZipFile(sys.argv[1], 'w', zipfile.ZIP_DEFLATED) as z:
    for entry in json.loads(sys.stdin.read()):
        info = zipfile.ZipInfo(entry['name'])
        info.compress_type = zipfile.ZIP_STORED if entry.get('stored') else zipfile.ZIP_DEFLATED
        if entry.get('mode'): info.external_attr = entry['mode'] << 16
        z.writestr(info, bytes.fromhex(entry['bytes']))
`,
      path,
    ],
    { input: JSON.stringify(entries) },
  );
}

export const hex = (bytes: Buffer | string): string => Buffer.from(bytes).toString('hex');
