import manifest from '../package.json' with { type: 'json' };

export const VERSION: string = manifest.version;

/** Identifies the files of a built program: `npm run build` puts their digest here. */
export const BUILD: string = '__BUILD__';
