import { format, type Format } from './format';

/** Solid bodies are kept and sent; nothing here turns them about. */
const solid = (key: string, type: string, name: string, rest: Partial<Format>): Format =>
  format(key, 'other', type, name, key, rest);

export const OTHERS: readonly Format[] = [
  solid('glb', 'model/gltf-binary', '3D glTF binary', { looks: (head) => head.at(0, 'glTF') }),
  solid('usdz', 'model/vnd.usdz+zip', '3D USDZ', {
    looks: (head) => head.isZip && head.extension === 'usdz',
  }),
  solid('ply', 'application/octet-stream', '3D PLY', {
    looks: (head) => /^ply\r?\n/.test(head.ascii(0, 5)),
  }),
  solid('stl', 'model/stl', '3D STL', { looks: (head) => head.extension === 'stl' }),
  solid('gltf', 'model/gltf+json', '3D glTF', { isText: true }),
  solid('obj', 'model/obj', '3D OBJ', { isText: true }),
  format('zip', 'other', 'application/zip', 'ZIP', 'zip', { looks: (head) => head.isZip }),
];

/** What is of no kind we know. */
export const OTHER: Format = format('other', 'other', 'application/octet-stream', 'File', '');
