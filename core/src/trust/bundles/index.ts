/** Trust lists as files: a zip in the directory layout of Part 12 Annex F. A door of its own, since only few need it. */
export * from './pki-folder.js';
export * from './unzip.js';
