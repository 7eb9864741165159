export * from './messages.js';
export * from './tunnel.js';
