import type { Message, ServerSecureChannelLayer } from 'node-opcua-secure-channel';
import type { OPCUAServer } from 'node-opcua-server';
import {
  ApplicationDescription,
  ApplicationType,
  FindServersOnNetworkRequest,
  FindServersOnNetworkResponse,
  ServerOnNetwork,
} from 'node-opcua-types';
import { applicationUriOf, standInServers } from './marrowby/index.js';
import type { StandInServer } from './marrowby/index.js';

/** When the records of this directory began to be counted. */
const begun = new Date();

/** Makes a stand-in a discovery server: it tells of those that registered, and of those that it heard of on the network. */
export function tellOfOthers(server: OPCUAServer, { tellsOf, hearsOf }: StandInServer): void {
  const named = (ids: readonly string[]) => standInServers.filter(({ id }) => ids.includes(id));
  const registered = named(tellsOf).map(descriptionOf);
  const own = server.getServers.bind(server);
  server.getServers = (channel) => [...own(channel), ...registered];
  const records = named(hearsOf).map(recordOf);
  // The library calls a service by this name, and has none for FindServersOnNetwork (Part 4 §5.5.3).
  Object.assign(server, {
    _on_FindServersOnNetworkRequest(message: Message, channel: ServerSecureChannelLayer): void {
      const { request } = message;
      if (!(request instanceof FindServersOnNetworkRequest)) return;
      const { startingRecordId, maxRecordsToReturn, serverCapabilityFilter } = request;
      const wanted = serverCapabilityFilter ?? [];
      const servers = records
        .filter(({ recordId }) => recordId >= startingRecordId)
        .filter(({ serverCapabilities }) => wanted.every((one) => serverCapabilities?.includes(one)))
        .slice(0, maxRecordsToReturn === 0 ? undefined : maxRecordsToReturn);
      const response = new FindServersOnNetworkResponse({ lastCounterResetTime: begun, servers });
      channel.send_response('MSG', response, message, () => undefined);
    },
  });
}

const urlOf = ({ advertisedHost, port }: StandInServer): string => `opc.tcp://${advertisedHost}:${port}`;

const descriptionOf = (standIn: StandInServer): ApplicationDescription =>
  new ApplicationDescription({
    applicationUri: applicationUriOf(standIn.id),
    applicationName: { text: standIn.name },
    applicationType: ApplicationType.Server,
    discoveryUrls: [urlOf(standIn)],
  });

const recordOf = (standIn: StandInServer, index: number): ServerOnNetwork =>
  new ServerOnNetwork({
    recordId: index + 1,
    serverName: standIn.name,
    discoveryUrl: urlOf(standIn),
    serverCapabilities: ['DA'],
  });
