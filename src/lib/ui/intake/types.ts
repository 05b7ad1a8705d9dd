/** A file of a source that is being looked through. */
export interface ScanFile {
  position: number;
  path: string;
  size: number;
  lookedAt: boolean;
  kind: string;
  format: string;
  takenFrom: string | null;
  aspect: number;
  problem: string | null;
  held: string | null;
}

export interface Scan {
  id: string;
  source: { kind: 'device' | 'folder'; name: string };
  state: string;
  files: ScanFile[];
}
