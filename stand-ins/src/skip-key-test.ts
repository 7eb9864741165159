import { createRequire, Module } from 'node:module';
import { dirname, join } from 'node:path';

/**
 * On Node 20 the UA library makes an RSA key of 4096 bits at every start, to warn where RSA PKCS#1 v1.5 was switched off:
 * seconds of work that nobody asked for. Imported before the library, this leaves that out, and nothing else.
 */
const load = createRequire(import.meta.url);
const file = join(dirname(load.resolve('node-opcua-secure-channel')), 'verify_pcks1.js');
load.cache[file] = Object.assign(new Module(file), {
  exports: { testRSAPKCS1V15_EncryptDecrypt: () => Promise.resolve() },
  loaded: true,
});
