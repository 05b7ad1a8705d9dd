/** Folder that holds the generations of manifests (ASC MHL 2.0), beside what they speak of. */
export const MHL_FOLDER = 'ascmhl';
