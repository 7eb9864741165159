import { closeSync, openSync, writeSync } from 'node:fs';

/** Bytes of what links of a plant usually send: short questions, answers of one packet and of several. */
const sizes = { question: 190, answers: [260, 900, 1400, 4200] };
const mostPayload = 1448;
const atOnce = 60;
const callsEach = 400;

const ascii = (text) => Buffer.from(text, 'latin1');
const le32 = (value) => {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32LE(value >>> 0);
  return bytes;
};
const text = (value) => (value === null ? le32(-1) : Buffer.concat([le32(value.length), ascii(value)]));
const message = (type, ...parts) => {
  const body = Buffer.concat(parts);
  return Buffer.concat([ascii(type), le32(8 + body.length), body]);
};
const id = (number) => Buffer.from([1, 0, number & 255, number >> 8]);
const requestHeader = Buffer.concat([Buffer.from([0, 0]), Buffer.alloc(16), text(null), le32(10_000), Buffer.alloc(3)]);
const responseHeader = Buffer.concat([Buffer.alloc(16), Buffer.from([0]), le32(-1), Buffer.alloc(3)]);
const limits = Buffer.concat([0, 65_536, 65_536, 0, 0].map(le32));
const none = 'http://opcfoundation.org/UA/SecurityPolicy#None';

/** Writes a capture of so many bytes: clients of UA that read, sixty at once, each some hundred times. */
export function writeCapture(file, bytes) {
  const out = openSync(file, 'w');
  const buffer = Buffer.alloc(4 << 20);
  let filled = 0;
  let written = 0;
  let microseconds = 0;
  const flush = () => {
    writeSync(out, buffer, 0, filled);
    written += filled;
    filled = 0;
  };
  const packet = (from, to, flags, payload) => {
    if (filled + 70 + payload.length > buffer.length) flush();
    microseconds += 40;
    const at = filled;
    const frame = 54 + payload.length;
    buffer.fill(0, at, at + 70);
    buffer.writeUInt32LE(1_790_000_000 + Math.floor(microseconds / 1e6), at);
    buffer.writeUInt32LE(microseconds % 1e6, at + 4);
    buffer.writeUInt32LE(frame, at + 8);
    buffer.writeUInt32LE(frame, at + 12);
    const ip = at + 16 + 14;
    buffer.writeUInt16BE(0x0800, ip - 2);
    buffer[ip] = 0x45;
    buffer.writeUInt16BE(40 + payload.length, ip + 2);
    buffer[ip + 8] = 64;
    buffer[ip + 9] = 6;
    buffer.writeUInt32BE(from.address, ip + 12);
    buffer.writeUInt32BE(to.address, ip + 16);
    buffer.writeUInt16BE(from.port, ip + 20);
    buffer.writeUInt16BE(to.port, ip + 22);
    buffer.writeUInt32BE(from.sequence, ip + 24);
    buffer.writeUInt32BE(to.sequence, ip + 28);
    buffer[ip + 32] = 0x50;
    buffer[ip + 33] = flags;
    buffer.writeUInt16BE(64_000, ip + 34);
    payload.copy(buffer, ip + 40);
    filled += 16 + frame;
    from.sequence = (from.sequence + payload.length + (flags & 3 ? 1 : 0)) >>> 0;
  };
  const nothing = Buffer.alloc(0);
  const says = (from, to, bytes) => {
    for (let at = 0; at < bytes.length; at += mostPayload) packet(from, to, 0x18, bytes.subarray(at, at + mostPayload));
    packet(to, from, 0x10, nothing);
  };

  function* conversation(number) {
    const client = { address: 0x0a030015 + (number % 40), port: 20_000 + (number % 40_000), sequence: number * 7919 };
    const server = { address: 0x0a030100 + (number % 25), port: 4840, sequence: number * 104_729 };
    let sequence = 0;
    const chunk = (kind, typeId, header, more = nothing) => {
      sequence += 1;
      return message(kind, le32(1), le32(1), le32(sequence), le32(sequence), id(typeId), header, more);
    };
    packet(client, server, 0x02, nothing);
    packet(server, client, 0x12, nothing);
    packet(client, server, 0x10, nothing);
    says(client, server, message('HELF', limits, text(`opc.tcp://press-${number % 25}:4840`)));
    says(server, client, message('ACKF', limits));
    const open = (typeId, header) =>
      message(
        'OPNF',
        le32(1),
        text(none),
        text(null),
        text(null),
        le32(1),
        le32(1),
        id(typeId),
        header,
        Buffer.alloc(20),
      );
    says(client, server, open(446, requestHeader));
    says(server, client, open(449, responseHeader));
    yield;
    for (let call = 0; call < callsEach; call += 1) {
      const size = sizes.answers[(call * 7 + number) % sizes.answers.length];
      const question = chunk('MSGF', 631, requestHeader, Buffer.alloc(sizes.question - 60));
      says(client, server, question);
      sequence -= 1;
      says(server, client, chunk('MSGF', 634, responseHeader, Buffer.alloc(size)));
      yield;
    }
    says(client, server, chunk('CLOF', 452, requestHeader));
    packet(client, server, 0x11, nothing);
    packet(server, client, 0x11, nothing);
    packet(client, server, 0x10, nothing);
  }

  const head = Buffer.alloc(24);
  head.writeUInt32LE(0xa1b2c3d4, 0);
  head.writeUInt16LE(2, 4);
  head.writeUInt16LE(4, 6);
  head.writeUInt32LE(65_535, 16);
  head.writeUInt32LE(1, 20);
  head.copy(buffer, 0);
  filled = head.length;
  let count = 0;
  const running = Array.from({ length: atOnce }, () => conversation(count++));
  while (written + filled < bytes)
    running.forEach((one, index) => {
      if (one.next().done) running[index] = conversation(count++);
    });
  flush();
  closeSync(out);
  return count;
}
