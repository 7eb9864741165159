export * from './end.js';
