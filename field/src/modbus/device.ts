import { createServer } from 'node:net';
import type { AddressInfo, Server, Socket } from 'node:net';
import { readFrame, requestIn, writeAnswer, writeException } from '@loyal-hinge/core/field';
import type { ModbusFrame, ModbusTable } from '@loyal-hinge/core/field';

/** How a device behaves that is not well. */
export type DeviceFault =
  /** Sends half of each answer, and ends the connection. */
  | 'cut-off'
  /** Announces and sends more than was asked for. */
  | 'too-long'
  /** Answers as if another request had been asked. */
  | 'other-transaction'
  /** Speaks another protocol. */
  | 'other-protocol'
  /** Sends an octet a second. */
  | 'dripping'
  /** Breaks the connection off after each answer. */
  | 'resets-after'
  /** Answers with all exceptions in turn. */
  | 'exceptions'
  /** Takes connections and says nothing. */
  | 'mute';

export interface DeviceShape {
  /** Units that answer; absent: any. Others are met by silence, or by a gateway’s exception. */
  readonly units?: readonly number[] | undefined;
  readonly otherUnits?: 'silent' | 'exception' | undefined;
  /** More connections than these are broken off; absent: any number. */
  readonly mostConnections?: number | undefined;
  readonly fault?: DeviceFault | undefined;
  /** A word, or a bit as 0 or 1, of a place; null: there is none. */
  at(table: ModbusTable, place: number, unit: number): number | null;
}

/** A device that answers over TCP, for tests and for the made-up plant. It takes no writing. */
export class FieldDevice {
  private readonly sockets = new Set<Socket>();
  private readonly timers = new Set<NodeJS.Timeout>();
  private exception = 0;
  /** How many requests came, and connections. */
  requests = 0;
  connections = 0;
  /** May be changed while it runs. */
  shape: DeviceShape;

  private constructor(
    private readonly server: Server,
    shape: DeviceShape,
  ) {
    this.shape = shape;
    server.on('connection', (socket) => this.serve(socket));
  }

  static start(host: string, port: number, shape: DeviceShape): Promise<FieldDevice> {
    const server = createServer();
    return new Promise((resolve, reject) => {
      server.once('error', reject);
      server.listen(port, host, () => resolve(new FieldDevice(server, shape)));
    });
  }

  get port(): number {
    return (this.server.address() as AddressInfo).port;
  }

  stop(): Promise<void> {
    for (const timer of this.timers) clearInterval(timer);
    for (const socket of this.sockets) socket.destroy();
    return new Promise((resolve) => this.server.close(() => resolve()));
  }

  private serve(socket: Socket): void {
    this.connections += 1;
    socket.on('error', () => undefined);
    if (this.sockets.size >= (this.shape.mostConnections ?? Infinity)) return void socket.resetAndDestroy();
    this.sockets.add(socket);
    socket.on('close', () => this.sockets.delete(socket));
    let received = Buffer.alloc(0);
    socket.on('data', (chunk: Buffer) => {
      received = Buffer.concat([received, chunk]);
      for (;;) {
        const reading = readFrame(received);
        if (reading.kind === 'foreign') return void socket.destroy();
        if (reading.kind === 'incomplete') return;
        received = received.subarray(reading.length);
        this.requests += 1;
        this.send(socket, this.answer(reading.frame));
      }
    });
  }

  /** null: it says nothing. */
  private answer(frame: ModbusFrame): Uint8Array | null {
    const { transaction, unit, functionCode } = frame;
    const { units, otherUnits, fault } = this.shape;
    if (fault === 'mute') return null;
    if (units && !units.includes(unit))
      return otherUnits === 'exception' ? writeException(transaction, unit, functionCode, 11) : null;
    const request = requestIn(frame);
    if (typeof request === 'number') return writeException(transaction, unit, functionCode, request);
    if (fault === 'exceptions') {
      const codes = [1, 2, 3, 4, 5, 6, 8, 10, 11];
      return writeException(transaction, unit, functionCode, codes[this.exception++ % codes.length] ?? 4);
    }
    const count = fault === 'too-long' ? request.count + 1 : request.count;
    const values = Array.from({ length: count }, (_, index) =>
      this.shape.at(request.table, request.first + index, unit),
    );
    if (values.some((value, index) => value === null && index < request.count))
      return writeException(transaction, unit, functionCode, 2);
    const told = values.map((value) => value ?? 0);
    return writeAnswer(fault === 'other-transaction' ? { ...request, transaction: transaction ^ 1 } : request, told);
  }

  private send(socket: Socket, answer: Uint8Array | null): void {
    if (!answer) return;
    switch (this.shape.fault) {
      case 'cut-off':
        return void socket.end(answer.subarray(0, answer.length >> 1));
      case 'other-protocol':
        return void socket.end('SSH-2.0-panel\r\n');
      case 'dripping':
        return this.drip(socket, answer);
      case 'resets-after':
        return void socket.write(answer, () => setTimeout(() => socket.resetAndDestroy(), 20));
      default:
        socket.write(answer);
    }
  }

  private drip(socket: Socket, answer: Uint8Array): void {
    let sent = 0;
    const timer = setInterval(() => {
      if (sent < answer.length && !socket.destroyed) return void socket.write(answer.subarray(sent, (sent += 1)));
      clearInterval(timer);
      this.timers.delete(timer);
    }, 1000);
    this.timers.add(timer);
  }
}
