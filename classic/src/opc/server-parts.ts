import { ComClient } from '../dcom/client.js';
import type { Identity, RemoteObject } from '../dcom/client.js';
import type { ObjectExporter } from '../dcom/exporter.js';
import { ComFailure, hresults } from '../dcom/interfaces.js';
import { readObjectReference } from '../dcom/object-reference.js';
import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComInterface, ComObject } from '../dcom/objects.js';
import type { Guid } from '../octets/guid.js';
import { connectionPoint, connectionPoints, enumGuid, enumString, opcIids } from './interfaces.js';

/** Gives a list some at a time. */
function taking<Value>(values: readonly Value[]) {
  let at = 0;
  return {
    next: ({ count }: { readonly count: number }) => {
      const part = values.slice(at, at + count);
      at += part.length;
      return { found: { room: count, part }, fetched: part.length };
    },
    skip: ({ count }: { readonly count: number }) => {
      at = Math.min(values.length, at + count);
      return {};
    },
    reset: () => {
      at = 0;
      return {};
    },
    /** S_FALSE where fewer came than were asked for. */
    code: ({
      found: { room, part },
    }: {
      readonly found: { readonly room: number; readonly part: readonly unknown[] };
    }) => (part.length < room ? hresults.false : hresults.ok),
  };
}

/** @param iid OPC’s own enumerator, or the plain one */
export function guidEnumerator(values: readonly Guid[], iid: Guid): ComObject {
  const { next, skip, reset, code } = taking(values);
  return {
    interfaces: [
      comInterface(
        iid,
        carryOut(enumGuid.next, next, code),
        carryOut(enumGuid.skip, skip),
        carryOut(enumGuid.reset, reset),
      ),
    ],
  };
}

export function stringEnumerator(values: readonly string[]): ComObject {
  const { next, skip, reset, code } = taking<string | null>(values);
  return {
    interfaces: [
      comInterface(
        opcIids.enumString,
        carryOut(enumString.next, next, code),
        carryOut(enumString.skip, skip),
        carryOut(enumString.reset, reset),
      ),
    ],
  };
}

/** How a server calls back: as whom, from where, for how long. */
export interface CallingBack {
  readonly identity: Identity;
  readonly localAddress?: string;
  readonly timeoutMs: number;
  /** Whether a place may be called at all; absent: any may. */
  readonly mayDial?: (host: string) => boolean;
}

/** Whom changes are told to. */
export interface Sink {
  readonly object: RemoteObject;
  release(): Promise<void>;
}

const mostSinks = 16;
const usualMapperPort = 135;

/** A place where clients leave objects that are called back, each under a cookie (OPC Common 3.2). */
export class Sinks {
  private readonly sinks = new Map<number, Sink>();
  private lastCookie = 0;
  readonly point: ComObject;

  constructor(
    private readonly iid: Guid,
    private readonly back: CallingBack,
    private readonly came: (sink: Sink) => void = () => undefined,
  ) {
    this.point = {
      interfaces: [
        comInterface(
          opcIids.connectionPoint,
          carryOut(connectionPoint.interfaceOf, () => ({ iid })),
          carryOut(connectionPoint.advise, async ({ sink }) => ({ cookie: await this.advise(sink) })),
          carryOut(connectionPoint.unadvise, ({ cookie }) => {
            const sink = this.sinks.get(cookie);
            if (!sink) throw new ComFailure(hresults.connectionUnknown);
            this.sinks.delete(cookie);
            void sink.release().catch(() => undefined);
            return {};
          }),
        ),
      ],
    };
  }

  get all(): readonly Sink[] {
    return [...this.sinks.values()];
  }

  /** Calls are over: whoever can’t be reached is not called again. */
  lose(sink: Sink): void {
    for (const [cookie, one] of this.sinks) if (one === sink) this.sinks.delete(cookie);
    void sink.release().catch(() => undefined);
  }
  end(): void {
    for (const sink of this.all) this.lose(sink);
  }

  private async advise(octets: Uint8Array | null): Promise<number> {
    if (!octets) throw new ComFailure(hresults.invalidArgument);
    if (this.sinks.size >= mostSinks) throw new ComFailure(hresults.tooManyConnections);
    const sink = await this.reach(octets);
    const cookie = ++this.lastCookie;
    this.sinks.set(cookie, sink);
    this.came(sink);
    return cookie;
  }

  /** Finds the client’s object, at any of the places where its resolver says to be. */
  private async reach(octets: Uint8Array): Promise<Sink> {
    const read = readObjectReference(octets);
    const places = read.kind === 'standard' ? read.resolver.strings : [];
    for (const { host, port } of places.slice(0, 8)) {
      if (this.back.mayDial?.(host) === false) continue;
      const client = new ComClient({ host, mapperPort: port ?? usualMapperPort, ...this.back });
      try {
        const unknown = await client.unmarshal(octets);
        const object = await unknown.query(this.iid);
        return { object, release: () => client.close() };
      } catch {
        await client.close();
      }
    }
    throw new ComFailure(hresults.cannotConnect);
  }
}

/** What an object shows of its connection points. */
export function pointsOf(exporter: ObjectExporter, points: ReadonlyMap<Guid, Sinks>): ComInterface {
  return comInterface(
    opcIids.connectionPoints,
    carryOut(connectionPoints.enumerate, () => {
      throw new ComFailure(hresults.notImplemented);
    }),
    carryOut(connectionPoints.find, ({ iid }) => {
      const sinks = points.get(iid);
      if (!sinks) throw new ComFailure(hresults.connectionUnknown);
      return { point: exporter.marshal(sinks.point, opcIids.connectionPoint) };
    }),
  );
}
