/** A synthetic plant of a size: nothing of it is ever dialled. Ids and names are numbers with a word before them. */
export function madePlant(linkCount) {
  const serverCount = Math.max(1, Math.round(linkCount / 10));
  const clientCount = Math.max(1, Math.round((linkCount * 3) / 10));
  const machineCount = Math.max(1, Math.round(linkCount / 5));
  const padded = (number) => String(number).padStart(5, '0');
  const zones = Array.from({ length: 40 }, (_, index) => ({
    id: `zone-${index}`,
    name: `Section ${index + 1}`,
    order: index,
  }));
  const machines = Array.from({ length: machineCount }, (_, index) => ({
    id: `machine-${padded(index)}`,
    zoneId: zones[index % zones.length].id,
    name: `Machine ${padded(index)}`,
    description: '',
    hostNames: [`m${padded(index)}.works.example`],
    addresses: [`127.${100 + (index >> 16)}.${(index >> 8) & 255}.${index & 255}`],
  }));
  const server = (index) => ({
    kind: 'server',
    id: `server-${padded(index)}`,
    machineId: machines[(index * 2) % machineCount].id,
    name: `Server ${padded(index)}`,
    applicationUri: `urn:works.example:server-${padded(index)}`,
    ports: [4840],
  });
  const client = (index) => ({
    kind: 'client',
    id: `client-${padded(index)}`,
    machineId: machines[(index * 3 + 1) % machineCount].id,
    name: `Client ${padded(index)}`,
    applicationUri: `urn:works.example:client-${padded(index)}`,
    securityPolicies: ['Basic256Sha256'],
    securityModes: ['SignAndEncrypt'],
  });
  const servers = Array.from({ length: serverCount }, (_, index) => server(index));
  const clients = Array.from({ length: clientCount }, (_, index) => client(index));
  const links = Array.from({ length: linkCount }, (_, index) => {
    const to = servers[(index * 7 + Math.floor(index / serverCount)) % serverCount];
    const from = clients[index % clientCount];
    return {
      id: `link-${padded(index)}`,
      kind: 'ua',
      name: `${from.name} to ${to.name}`,
      clientId: from.id,
      serverId: to.id,
      endpointUrl: `opc.tcp://${hostOf(to, machines)}:4840`,
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: [{ path: `Values/Value ${index % 50}`, uses: ['read', 'watch'] }],
      identity: { kind: 'user', userName: 'reader' },
      floor: 'signed',
      staleAfterMs: 60_000,
    };
  });
  return { name: `Works of ${linkCount} links`, zones, machines, applications: [...servers, ...clients], links };
}

const hostOf = ({ machineId }, machines) => machines[Number(machineId.slice('machine-'.length))].hostNames[0];
