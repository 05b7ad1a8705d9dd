import packageFile from '../../../../package.json' with { type: 'json' };

/** Version of this application. */
export const VERSION: string = packageFile.version;
