import { ComClient } from '../dcom/client.js';
import type { RemoteObject } from '../dcom/client.js';
import { endpointMapper, management, objectExporter, remoteActivator } from '../dcom/interfaces.js';
import { resolver } from '../dcom/resolver.js';
import type { ToldTarget } from '../ntlm/client.js';
import type { Guid } from '../octets/guid.js';
import { ServerList } from '../opc/client.js';
import type { ListedServer } from '../opc/client.js';
import { opcIids } from '../opc/interfaces.js';
import { RpcClient } from '../rpc/client.js';
import type { Dialling } from '../rpc/client.js';
import { RpcFault, RpcProblem, faults } from '../rpc/problems.js';
import { protects } from '../rpc/security.js';
import { problemOf } from './observations.js';
import type { Observation, PortOutcome, Problem, SeenPlace } from './observations.js';
import { useServer } from './use-server.js';
import type { ClassicWalk, Walking } from './walking.js';

type Place = Pick<SeenPlace, 'host' | 'port'>;

/**
 * Walks to a classic server step by step, as far as it comes, and tells what it sees; it judges nothing. A password goes
 * over the line once before it is known to be right. What was taken from the server is given back however it ends.
 */
export async function walkClassic(walk: ClassicWalk, note: (observation: Observation) => void): Promise<void> {
  const addresses = await walk.resolve(walk.host);
  note({ step: 'name', addresses });
  if (addresses.length === 0) return;
  const tried = await reach(walk, addresses);
  note({ step: 'reach', tried });
  const address = tried.find(({ outcome }) => outcome === 'open')?.address;
  if (address === undefined) return;
  const walking = walkingTo(walk, address, addresses, note);
  try {
    const isCom = await mapper(walking);
    if (walk.stopsBeforeSignIn || !(await signIn(walking, isCom)) || !isCom) return;
    const clsid = await classOf(walking);
    const object = clsid === null ? null : await activate(walking, clsid);
    if (object) await useServer(walking, object);
  } finally {
    await walking.com.close();
  }
}

function walkingTo(
  walk: ClassicWalk,
  address: string,
  addresses: readonly string[],
  note: (observation: Observation) => void,
): Walking {
  const { mapperPort, localAddress, timeoutMs, signal, identity, mayDial } = walk;
  const told: { target: ToldTarget | null } = { target: null };
  const com = new ComClient({
    host: address,
    mapperPort,
    localAddress,
    timeoutMs,
    signal,
    identity,
    told: (target) => (told.target = target),
    placeOf: async ({ host, port }) => {
      const found = (await walk.resolve(host)).find(mayDial);
      return found === undefined || port === null ? null : { host: found, port };
    },
  });
  return { walk, com, note, told, ofServer: new Set([address, ...addresses]), localAddress: localAddress ?? null };
}

/** Dials the mapper at each address until one answers. */
async function reach(walk: ClassicWalk, addresses: readonly string[]) {
  const tried: { readonly address: string; readonly outcome: PortOutcome; readonly ms: number }[] = [];
  for (const address of addresses.filter(walk.mayDial)) {
    const begun = performance.now();
    const outcome = await portOutcome(walk, address, walk.mapperPort);
    tried.push({ address, outcome, ms: Math.round(performance.now() - begun) });
    if (outcome === 'open') break;
  }
  return tried;
}

async function portOutcome(walk: ClassicWalk, host: string, port: number): Promise<PortOutcome> {
  const { localAddress, timeoutMs, signal } = walk;
  const dialling: Dialling = { host, port, localAddress, timeoutMs, signal };
  try {
    (await RpcClient.connect(dialling)).close();
    return 'open';
  } catch (error) {
    if (error instanceof RpcProblem) return error.kind;
    throw error;
  }
}

/** Asks the mapper without saying who asks. @returns whether it has COM’s interfaces */
async function mapper(walking: Walking): Promise<boolean> {
  const { com, walk, note } = walking;
  try {
    const connection = await com.connect(walk.mapperPort);
    try {
      walking.localAddress ??= connection.localAddress;
      const [has] = await connection.bind([objectExporter], null, com.calling);
      if (!has) throw new RpcProblem('interface-unknown', 'RPC is spoken there, but COM’s interfaces are not there.');
      const { out } = await com.call(connection, objectExporter, resolver.serverAlive2, {});
      const bindings = (out.bindings?.strings ?? []).map(({ host, port }) => ({ host, port }));
      const services = (out.bindings?.security ?? []).map(({ service }) => service);
      note({ step: 'mapper', version: out.version, bindings, services, problem: null });
      note({ step: 'bindings', places: await seen(walking, bindings, walk.mapperPort) });
      return true;
    } finally {
      connection.close();
    }
  } catch (error) {
    note({ step: 'mapper', version: null, bindings: [], services: [], problem: problemOf(error) });
    return false;
  }
}

const mostPlaces = 16;

/** How places that are advertised look from here. */
function seen({ walk, ofServer }: Walking, places: readonly Place[], usualPort: number): Promise<readonly SeenPlace[]> {
  return Promise.all(
    places.slice(0, mostPlaces).map(async (place) => {
      const addresses = await walk.resolve(place.host);
      for (const address of addresses) ofServer.add(address);
      const host = addresses.find(walk.mayDial);
      const outcome = host === undefined ? null : await portOutcome(walk, host, place.port ?? usualPort);
      return { ...place, addresses, outcome };
    }),
  );
}

type SignedInAt = Extract<Observation, { readonly step: 'sign-in' }>['at'];

/** Says who we are, and calls once: that is where a wrong account shows. */
async function signIn({ walk, com, told, note }: Walking, isCom: boolean): Promise<boolean> {
  const { account, level } = walk.identity;
  const begun = Date.now();
  const tell = (at: SignedInAt, isProven: boolean, problem: Problem | null): boolean => {
    const time = told.target?.time ?? null;
    const clockMs = time === null ? null : time - begun;
    const who = { level, user: account?.user ?? null, target: told.target, clockMs };
    note({ step: 'sign-in', ...who, problem, isProven, at });
    return problem === null;
  };
  try {
    // Where COM’s interfaces are not there, another may take the account all the same.
    const { connection, has } = await com.signIn(
      isCom ? [objectExporter, remoteActivator] : [management, endpointMapper],
    );
    if (!isCom) {
      const at = has[0] ? 'management' : 'endpoint mapper';
      const { problem, isAnswered } = await callOther(com, connection, has[0] ?? false);
      return tell(at, isAnswered && protects(level), problem);
    }
    com.keepMapper(connection);
    await com.call(connection, objectExporter, resolver.serverAlive2, {});
    return tell('mapper', protects(level), null);
  } catch (error) {
    return tell(isCom ? 'mapper' : 'management', false, problemOf(error));
  }
}

/** Faults that come from the operation, after whoever calls was let in. */
const fromOperation: ReadonlySet<number> = new Set([faults.operationUnknown, faults.badStub]);

/** Calls an interface that every server of RPC may have, for whether it is refused. */
async function callOther(com: ComClient, connection: RpcClient, hasManagement: boolean) {
  // inq_if_ids (C706, appendix Q), or ept_lookup without its parameters: nothing is changed by either.
  const [syntax, operation] = hasManagement ? ([management, 0] as const) : ([endpointMapper, 2] as const);
  try {
    await connection.call(syntax, operation, new Uint8Array(), com.calling);
    return { problem: null, isAnswered: true };
  } catch (error) {
    const isIn = error instanceof RpcFault && fromOperation.has(error.status);
    return { problem: isIn ? null : problemOf(error), isAnswered: false };
  } finally {
    connection.close();
  }
}

/** The class of the server: as it was given, or by the machine’s list. null: it is not known, or none is wanted. */
async function classOf({ walk: { server }, com, note }: Walking): Promise<Guid | null> {
  if (server === null) return null;
  if (server === 'list') {
    const { others, problem } = await wholeList(com);
    note({ step: 'class', clsid: null, progId: null, by: 'server list', others, problem });
    return null;
  }
  if ('clsid' in server) {
    note({ step: 'class', clsid: server.clsid, progId: null, by: 'given', others: [], problem: null });
    return server.clsid;
  }
  const { progId } = server;
  const tell = (clsid: Guid | null, problem: Problem | null, others: readonly ListedServer[]): Guid | null => {
    note({ step: 'class', clsid, progId, by: 'server list', others, problem });
    return clsid;
  };
  let list: ServerList | null = null;
  try {
    list = await ServerList.open(com);
    return tell(await list.classOf(progId), null, []);
  } catch (error) {
    const problem = problemOf(error);
    return tell(null, problem, list ? await list.servers().catch(() => []) : []);
  } finally {
    await list?.release().catch(() => undefined);
  }
}

/** All servers that the machine lists. */
async function wholeList(com: ComClient) {
  let list: ServerList | null = null;
  try {
    list = await ServerList.open(com);
    return { others: await list.servers(), problem: null };
  } catch (error) {
    return { others: [], problem: problemOf(error) };
  } finally {
    await list?.release().catch(() => undefined);
  }
}

/** Has the server made, and looks whether its port is open. @returns the server, where it can be called */
async function activate(walking: Walking, clsid: Guid): Promise<RemoteObject | null> {
  const { com, note } = walking;
  let places: readonly Place[] = [];
  try {
    const made = await com.make(clsid, [opcIids.server]);
    const exporter = com.exporterOf(made.oxid);
    places = (exporter?.places ?? []).map(({ host, port }) => ({ host, port }));
    const object = await com.objectOf(made, opcIids.server);
    note({ step: 'activation', places, level: exporter?.level ?? null, problem: null });
    const ports = await seen(walking, places, 0);
    note({ step: 'object-port', places: ports });
    return ports.some(({ outcome }) => outcome === 'open') ? object : null;
  } catch (error) {
    note({ step: 'activation', places, level: null, problem: problemOf(error) });
    return null;
  }
}
