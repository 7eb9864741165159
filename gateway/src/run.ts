import type { GatewayConfiguration } from '@loyal-hinge/contract/line';
import { resolve } from 'node:path';
import { Gateway } from './gateway.js';
import type { Tell } from './gateway.js';
import { UaFace } from './ua/face.js';
import { uaIdentity } from './ua/identity.js';
import { silenceLibrary } from './ua/quiet.js';
import { UaSource } from './ua/source.js';

export interface RunningGateway {
  readonly gateway: Gateway;
  /** The ports of its faces, in their order. */
  readonly ports: readonly number[];
  stop(): Promise<void>;
}

/**
 * Starts a gateway with its sources and faces.
 * @param folder from which the paths of its files are taken
 * @throws Error with a sentence for people where a file can’t be read or a port is taken
 */
export async function startGateway(
  configuration: GatewayConfiguration,
  folder: string,
  tell: Tell,
): Promise<RunningGateway> {
  silenceLibrary();
  const identity = await uaIdentity(configuration, folder);
  const sources = configuration.sources.map((settings) => {
    const user = settings.user && { ...settings.user, passwordFile: resolve(folder, settings.user.passwordFile) };
    return new UaSource({ ...settings, user }, identity, Gateway.wantedOf(configuration, settings.name));
  });
  const gateway = new Gateway(configuration, sources, tell);
  const faces: UaFace[] = [];
  try {
    for (const face of configuration.faces)
      faces.push(await UaFace.start(face, configuration.name, identity, (...given) => gateway.write(...given)));
  } catch (error) {
    await Promise.all(faces.map((face) => face.stop()));
    const { address, port } = configuration.faces[faces.length] ?? { address: '', port: 0 };
    throw new Error(
      `It can’t listen at ${address} port ${port}: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  gateway.start(faces);
  return { gateway, ports: faces.map(({ port }) => port), stop: () => gateway.stop() };
}
