export * from './configuration.js';
export * from './gateway.js';
export * from './run.js';
export type * from './source.js';
