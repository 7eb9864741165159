export * from './gateway.js';
export * from './messages.js';
export * from './read-file.js';
export * from './tunnel.js';
