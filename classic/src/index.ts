export * from './octets/guid.js';
export * from './rpc/pdu.js';
export * from './rpc/problems.js';
export * from './rpc/security.js';
export * from './rpc/client.js';
export * from './rpc/server.js';
export * from './ntlm/client.js';
export * from './ntlm/server.js';
export { passwordHash } from './ntlm/keys.js';
