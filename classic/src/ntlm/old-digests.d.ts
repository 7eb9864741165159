/** Both packages are JavaScript without types of their own. */
declare module 'js-md4' {
  const md4: { arrayBuffer(message: Uint8Array): ArrayBuffer };
  export default md4;
}
declare module 'rc4' {
  export default class RC4 {
    constructor(key: number[]);
    randomByte(): number;
  }
}
