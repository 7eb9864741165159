import fc from 'fast-check';
import { decodeHelloAnswer, encodeHello } from './tcp-messages.js';

const words = (type: string, ...values: number[]): Uint8Array => {
  const message = new Uint8Array(8 + 4 * values.length);
  const view = new DataView(message.buffer);
  message.set(new TextEncoder().encode(type));
  view.setUint32(4, message.length, true);
  values.forEach((value, index) => view.setUint32(8 + 4 * index, value, true));
  return message;
};
const text = (content: string): Uint8Array => new TextEncoder().encode(content);

describe('the answer to a Hello', () => {
  it('is read from an Acknowledge', () => {
    expect(decodeHelloAnswer(words('ACKF', 0, 65536, 32768, 0, 5))).toEqual({
      kind: 'acknowledge',
      limits: {
        protocolVersion: 0,
        receiveBufferSize: 65536,
        sendBufferSize: 32768,
        maxMessageSize: 0,
        maxChunkCount: 5,
      },
    });
  });

  it('is read from an Error, with its code by name', () => {
    expect(decodeHelloAnswer(words('ERRF', 0x80830000, 0xffffffff))).toEqual({
      kind: 'error',
      code: 0x80830000,
      codeName: 'BadTcpEndpointUrlInvalid',
      reason: '',
    });
  });

  it('waits for the rest of a message', () => {
    const whole = words('ACKF', 0, 65536, 65536, 0, 0);
    for (let length = 0; length < whole.length; length += 1)
      expect(decodeHelloAnswer(whole.subarray(0, length)).kind).toBe('incomplete');
  });

  it.each([
    [text('HTTP/1.1 400 Bad Request\r\n'), 'HTTP'],
    [Uint8Array.from([0x15, 0x03, 0x03, 0, 2, 2, 40]), 'TLS'],
    [text('220 ready\r\n'), 'a text banner'],
    [Uint8Array.from([3, 0, 0, 7, 2, 240]), 'binary data of another protocol'],
  ])('is recognised where it is another protocol (%#)', (bytes, looksLike) => {
    expect(decodeHelloAnswer(bytes)).toMatchObject({ kind: 'other', looksLike });
  });

  it('does not believe a length beyond reason', () => {
    const message = words('ACKF', 0, 0, 0, 0, 0);
    new DataView(message.buffer).setUint32(4, 0x7fffffff, true);
    expect(decodeHelloAnswer(message).kind).toBe('other');
  });

  it('never throws', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 100 }), (bytes) => void decodeHelloAnswer(bytes)),
      { numRuns: 1000 },
    );
  });
});

describe('a Hello', () => {
  it('tells its own length and cuts an endless URL', () => {
    const limits = {
      protocolVersion: 0,
      receiveBufferSize: 65536,
      sendBufferSize: 65536,
      maxMessageSize: 0,
      maxChunkCount: 0,
    };
    const message = encodeHello('x'.repeat(9000), limits);
    expect(new DataView(message.buffer).getUint32(4, true)).toBe(message.length);
    expect(message.length).toBe(32 + 4096);
  });
});
