export * from './plant.js';
export * from './links.js';
export * from './people.js';
export * from './problem.js';
export * from './events.js';
export * from './bench.js';
export * from './settings.js';
export * from './routes.js';
