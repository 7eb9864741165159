export * from './begin.js';
export * from './enrol.js';
export * from './folder.js';
export * from './own-request.js';
export * from './post.js';
export * from './talk.js';
export * from './tell-statistics.js';
export * from './ticket.js';
