import { heardRpc } from '@loyal-hinge/classic';
import { CaptureReading, codeText, counted, listed, tls, uaTcp } from '@loyal-hinge/core/casebook';
import type { CaptureRead, Conversation, HeardService } from '@loyal-hinge/core/casebook';
import { Batched } from '../batched.js';
import { CannotRun } from '../cannot-run.js';
import type { Command, Out } from '../command.js';
import { readInParts } from '../files.js';
import { readOptions } from '../options.js';

const usage = `hinge capture read FILE [--json]
  Reads a capture (pcap or pcapng) and tells every conversation over TCP in it: who with whom, in which
  protocol, what was asked for, and how it ended. With --json one JSON object a line: { "protocol", "client",
  "server", "start", "end", "packets", "bytes", "outcome", … }. What was not understood is told on the other
  output. Passwords are told as seen, and never given out.
  Exit code 0, 3 where the file could not be read to its end, 2 when it could not run.`;

export const read: Command = {
  usage,
  run(args, out, errors) {
    const { options, rest } = readOptions(args, { json: 'flag' }, usage);
    const [file, ...more] = rest;
    if (file === undefined || more.length > 0) throw new CannotRun(`Say which one file to read.\n\n${usage}`);
    const lines = new Batched(out);
    const say = options.json ? jsonTo(lines) : (one: Conversation): void => lines.line(asSentence(one));
    const reading = new CaptureReading([uaTcp, heardRpc, tls], say);
    readInParts(file, (part) => reading.take(part));
    const told = reading.end();
    lines.flush();
    if (told.fault && !reading.isCapture) throw new CannotRun(`${file}: ${told.fault.message}`);
    return Promise.resolve(tellRest(file, told, errors));
  },
};

/** Tells what was not understood. @returns the exit code */
function tellRest(file: string, { packets, conversations, fault, passedOver }: CaptureRead, errors: Out): number {
  const found = `${counted(packets, 'packet')}, ${counted(conversations, 'conversation')}`;
  errors.write(`${file}: ${found}${passedOver.length > 0 ? `; passed over: ${listed(passedOver)}` : ''}.\n`);
  if (!fault) return 0;
  errors.write(`${file}, byte ${fault.position}: ${fault.message} What stands before it was read.\n`);
  return 3;
}

/** Writes each conversation as a line of JSON. */
function jsonTo(lines: Batched): (conversation: Conversation) => void {
  const calls = new CallsAsJson(lines);
  return (conversation) => {
    const json = asJson(conversation);
    if (!conversation.services) return lines.line(json);
    lines.add(`${json.slice(0, -1)},"services":[`);
    conversation.services.forEach((call, index) => calls.add(call, index === 0));
    lines.line(']}');
  };
}

/** All but its calls. */
function asJson(conversation: Conversation): string {
  const { hresult } = conversation;
  return JSON.stringify({
    protocol: conversation.protocol,
    client: conversation.client,
    server: conversation.server,
    start: timeText(conversation.start),
    end: timeText(conversation.end),
    packets: conversation.packets,
    bytes: conversation.bytes,
    outcome: conversation.outcome,
    endpointUrl: conversation.endpointUrl,
    securityPolicyUri: conversation.securityPolicyUri,
    securityMode: conversation.securityMode,
    senderThumbprint: conversation.senderThumbprint,
    receiverThumbprint: conversation.receiverThumbprint,
    error: conversation.error,
    user: conversation.user,
    interfaces: conversation.interfaces,
    notes: conversation.notes,
    hresult: hresult === undefined ? undefined : codeText(hresult),
  });
}

/** There may be very many calls, mostly the same one many times a second: what differs from the last one is written into a copy of it. */
class CallsAsJson {
  private name = '';
  private second = Number.NaN;
  private result: string | null = null;
  /** The last one, behind a comma; its microseconds stand from a place on. */
  private last = new Uint8Array();
  private microAt = 0;

  constructor(private readonly lines: Batched) {}

  add({ name, at, result }: HeardService, isFirst: boolean): void {
    const second = Math.floor(at / 1e6);
    if (second !== this.second || name !== this.name || result !== this.result) this.write(name, second, result);
    const from = isFirst ? 1 : 0;
    const bytes = isFirst ? this.last.subarray(from) : this.last;
    const microAt = this.microAt - from;
    this.lines.addWithDigits(bytes, Math.floor(at - second * 1e6), microAt, microAt + 6);
  }

  /** Names and results are the standard’s, and need no escapes. */
  private write(name: string, second: number, result: string | null): void {
    const head = `,{"name":"${name}","at":"${secondText(second)}`;
    const end = `Z","result":${result === null ? 'null' : `"${result}"`}}`;
    this.last = Buffer.from(`${head}000000${end}`, 'latin1');
    [this.name, this.second, this.result, this.microAt] = [name, second, result, head.length];
  }
}

function asSentence({
  protocol,
  client,
  server,
  start,
  packets,
  bytes,
  outcome,
  error,
  user,
  notes,
}: Conversation): string {
  const who = `${place(client)} to ${place(server)}`;
  const size = `${counted(packets, 'packet')}, ${counted(bytes, 'byte')}`;
  const as = user === undefined ? '' : ` As ${user}.`;
  const why = error ? ` ${error.name}: ${error.reason}` : '';
  return `${timeText(start)} ${who}, ${protocol}, ${outcome}: ${size}.${as}${why}${notes.map((note) => ` ${note}`).join('')}`;
}

const place = ({ address, port }: Conversation['client']): string => `${address} port ${port}`;

/** @param at microseconds since 1970 */
function timeText(at: number): string {
  const second = Math.floor(at / 1e6);
  return `${secondText(second)}${microText(at - second * 1e6)}Z`;
}
const secondText = (second: number): string => new Date(Math.min(second, 8.64e12) * 1000).toISOString().slice(0, -4);

const threeDigits = Array.from({ length: 1000 }, (_, value) => String(value).padStart(3, '0'));
function microText(micro: number): string {
  const milli = Math.floor(micro / 1000);
  return `${threeDigits[milli]}${threeDigits[Math.floor(micro - milli * 1000)]}`;
}
