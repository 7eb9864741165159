import type { Guid } from '../octets/guid.js';
import type { Agreeing, Caller } from '../rpc/security.js';
import { ObjectExporter } from './exporter.js';
import { ComFailure, hresults } from './interfaces.js';
import { MachineMapper } from './machine.js';
import type { ComObject } from './objects.js';

export interface CallbackPlace {
  /** Where is listened, and how that is told to the server. */
  readonly address: string;
  readonly hosts: readonly string[];
  /** Ports of the resolver and of the objects; 0: any that is free. */
  readonly ports?: { readonly resolver: number; readonly objects: number };
  readonly agreeing?: Readonly<Record<number, Agreeing>>;
  /** Whether somebody may call. Whoever may not is refused. */
  readonly admits: (caller: Caller) => boolean;
}

/** Where a client can be called back: an exporter of its own, and a resolver that tells where it is. Makes nothing for anybody. */
export class CallbackHome {
  private constructor(
    private readonly exporter: ObjectExporter,
    private readonly resolver: MachineMapper,
  ) {}

  /** @throws where the ports can’t be had */
  static async start({ address, hosts, ports, agreeing, admits }: CallbackPlace): Promise<CallbackHome> {
    const security = agreeing ? { agreeing } : {};
    let resolver: MachineMapper | null = null;
    const exporter = await ObjectExporter.start({
      address,
      port: ports?.objects ?? 0,
      hosts,
      ...security,
      admits,
      resolver: () => resolver?.bindings ?? { strings: [], security: [] },
    });
    try {
      resolver = await MachineMapper.start({
        address,
        port: ports?.resolver ?? 0,
        hosts,
        ...security,
        exporters: () => [exporter],
        make: () => Promise.reject(new ComFailure(hresults.accessDenied)),
      });
    } catch (error) {
      await exporter.close();
      throw error;
    }
    return new CallbackHome(exporter, resolver);
  }

  /** The ports that a firewall must let through towards this machine. */
  get ports(): { readonly resolver: number; readonly objects: number } {
    return { resolver: this.resolver.port, objects: this.exporter.port };
  }

  marshal(object: ComObject, iid: Guid): Uint8Array {
    return this.exporter.marshal(object, iid);
  }

  async close(): Promise<void> {
    await Promise.all([this.exporter.close(), this.resolver.close()]);
  }
}
