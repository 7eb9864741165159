export * from './configuration.js';
export * from './end.js';
export * from './statistics.js';
