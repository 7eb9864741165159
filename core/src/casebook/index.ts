export * from './conversation/conversation.js';
export type * from './conversation/dialect.js';
export * from './capture/capture-file.js';
export * from './capture/read-capture.js';
export { uaTcp } from './ua-tcp/ua-listener.js';
export { tls } from './tls/tls-listener.js';
export { codeText } from '../dcom/codes.js';
export { counted, listed } from '../links/wording.js';
