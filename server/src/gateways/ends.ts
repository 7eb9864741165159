import type { ClientApplication, ServerApplication } from '@loyal-hinge/core';
import type { GatewayWish } from '@loyal-hinge/contract';

/** What the ids of a gateway’s clients and servers end with. */
const ofItsEnds = /-(reads|shows|reads-classic|shows-classic)$/;
/** The id of the gateway that an application would be part of, by its id. */
export const gatewayIdIn = (applicationId: string): string => applicationId.replace(ofItsEnds, '');

/** A gateway in the plant: a client that reads and a server that shows, one application with one URI. */
export function endsOf(id: string, { name, machineId, port }: GatewayWish): Ends {
  const applicationUri = `urn:loyal-hinge:${id}`;
  return {
    client: {
      id: `${id}-reads`,
      kind: 'client',
      machineId,
      name: `${name}, reading`,
      applicationUri,
      securityPolicies: ['Basic256Sha256', 'Aes128_Sha256_RsaOaep', 'Aes256_Sha256_RsaPss'],
      securityModes: ['Sign', 'SignAndEncrypt'],
    },
    server: { id: `${id}-shows`, kind: 'server', machineId, name, applicationUri, ports: [port] },
  };
}

/** The same for classic OPC. */
export const classicEndsOf = (id: string, { name, machineId }: GatewayWish, mapperPort: number): Ends => ({
  client: {
    id: `${id}-reads-classic`,
    kind: 'client',
    machineId,
    name: `${name}, reading classic OPC`,
    applicationUri: '',
    securityPolicies: [],
    securityModes: [],
    speaks: 'classic',
  },
  server: {
    id: `${id}-shows-classic`,
    kind: 'server',
    machineId,
    name: `${name}, classic OPC`,
    applicationUri: '',
    ports: [mapperPort],
    speaks: 'classic',
  },
});

interface Ends {
  readonly client: ClientApplication;
  readonly server: ServerApplication;
}
