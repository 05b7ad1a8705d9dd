/** What a file is to its item; `beside-copy`: what was copied along with a second copy. */
export type FileRole =
  'original' | 'companion' | 'sidecar' | 'part' | 'second-copy' | 'beside-copy';
