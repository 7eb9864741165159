export * from './gateway.js';
export * from './messages.js';
export * from './tunnel.js';
