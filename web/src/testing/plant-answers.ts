import { firstSteps, linkKindIds, linkKinds } from '@loyal-hinge/core';
import type { FirstStepId } from '@loyal-hinge/core';
import type {
  AnswerOf,
  Check,
  ClientIdentityView,
  DiscoveryState,
  LinkDetail,
  LinkRow,
  PlantSettings,
  LinkBoard,
} from '@loyal-hinge/contract';

/** Answers about plant and links as the server gives them, for pages in tests. */

const at = '2026-03-01T10:00:00.000Z';

export const row = (id: string, name: string, differs: Partial<LinkRow> = {}): LinkRow => ({
  id,
  kind: 'ua',
  name,
  client: 'Line display',
  clientZone: 'Control Room',
  server: 'Furnace server',
  serverZone: 'Hot End',
  endpointUrl: 'opc.tcp://furnace:4840',
  state: 'Sound',
  headline: 'All that it needs holds.',
  partedAt: null,
  leadingCause: null,
  verdicts: linkKinds.ua.steps.map(() => 'holds'),
  checkedAt: at,
  checkId: null,
  waitsFor: null,
  ...differs,
});

/** Rows as the board answers with them. */
export function boardOf(rows: readonly LinkRow[], differs: Partial<LinkBoard> = {}): LinkBoard {
  const linksIn = (state: LinkRow['state']): number => rows.filter((row) => row.state === state).length;
  const states = {
    Parted: linksIn('Parted'),
    Strained: linksIn('Strained'),
    Untried: linksIn('Untried'),
    Sound: linksIn('Sound'),
  };
  const underWay = rows.filter(({ checkId }) => checkId !== null).length;
  const kinds = linkKindIds.filter((kind) => rows.some((row) => row.kind === kind));
  return { from: 0, rows: [...rows], fitting: rows.length, kinds, states, underWay, ...differs };
}

export const check = (differs: Partial<Check> = {}): Check => ({
  id: 'c1',
  linkId: 'display--furnace',
  state: 'queued',
  askedBy: 'engineer',
  askedAt: at,
  begunAt: null,
  endedAt: null,
  reason: null,
  found: null,
  ...differs,
});

const end = (applicationId: string, application: string): LinkDetail['client'] => ({
  applicationId,
  application,
  applicationUri: `urn:works:${applicationId}`,
  machine: application,
  zone: 'Hot End',
  hostNames: [`${applicationId}.works.example`],
  addresses: ['127.41.20.11'],
});

export const plant = (): AnswerOf<'plant'> => ({
  name: 'Works',
  zones: [
    { id: 'hot', name: 'Hot End', order: 1 },
    { id: 'room', name: 'Control Room', order: 2 },
  ],
  machines: [
    {
      id: 'furnace',
      zoneId: 'hot',
      name: 'Furnace control',
      description: '',
      hostNames: ['furnace.works.example'],
      addresses: ['127.41.20.11'],
    },
    {
      id: 'wall',
      zoneId: 'room',
      name: 'Wall of screens',
      description: '',
      hostNames: [],
      addresses: ['127.41.40.21'],
    },
  ],
  applications: [
    {
      kind: 'server',
      id: 'furnace-server',
      machineId: 'furnace',
      name: 'Furnace server',
      applicationUri: 'urn:works:furnace',
      ports: [4840],
    },
  ],
  links: [
    {
      id: 'display--furnace',
      name: 'Display to Furnace',
      clientId: 'display',
      serverId: 'furnace-server',
      endpointUrl: 'opc.tcp://furnace:4840',
      pinnedAddress: null,
      chosenEndpoint: null,
      needs: [{ path: 'Crown/Temperature', uses: ['read'] }],
      identity: { kind: 'user', userName: 'display' },
      floor: 'encrypted',
      kind: 'ua',
      staleAfterMs: 60_000,
    },
  ],
});

export const detail = (differs: Partial<LinkDetail['assessment']> = {}, more: Partial<LinkDetail> = {}): LinkDetail => {
  const [link] = plant().links;
  if (!link) throw new Error('the plant has no link');
  return {
    link,
    client: end('display', 'Line display'),
    server: end('furnace', 'Furnace server'),
    assessment: {
      linkId: link.id,
      state: 'Sound',
      headline: 'All that it needs holds.',
      steps: linkKinds.ua.steps.map(({ id: step }) => ({
        step,
        verdict: 'holds',
        summary: `${step} holds.`,
        source: 'tried',
        evidence: [],
        findings: [],
      })),
      partedAt: null,
      leadingCause: null,
      ...differs,
    },
    checks: [],
    changedSince: false,
    tunnel: null,
    passwordState: 'kept',
    usableEndpoints: [],
    behind: [],
    ...more,
  };
};

export const discovery = (differs: Partial<DiscoveryState> = {}): DiscoveryState => ({
  running: false,
  done: 2,
  total: 2,
  found: [
    {
      endpointUrl: 'opc.tcp://pump:4840',
      address: '127.41.10.31',
      port: 4840,
      applicationUri: 'urn:works:pump',
      applicationName: 'Pump server',
      thumbprint: null,
      by: 'FindServers of the directory',
      standing: 'new',
      says: 'The plant does not know it.',
      proposal: {
        zone: null,
        machine: {
          id: 'pump',
          zoneId: 'hot',
          name: 'Pump',
          description: '',
          hostNames: ['pump.works.example'],
          addresses: ['127.41.10.31'],
        },
        application: {
          kind: 'server',
          id: 'pump-server',
          machineId: 'pump',
          name: 'Pump server',
          applicationUri: 'urn:works:pump',
          ports: [4840],
        },
      },
    },
  ],
  devices: [],
  faults: ['silent.works.example does not answer.'],
  beganAt: at,
  by: 'engineer',
  ...differs,
});

export const settings = (differs: Partial<PlantSettings> = {}): PlantSettings => ({
  plantName: 'Works',
  declaredRanges: ['127.41.0.0/16'],
  nameServer: null,
  dialFromClientAddress: false,
  crlsDemanded: true,
  approvedByAnother: false,
  checksKeptDays: 90,
  recordsKeptDays: 365,
  recordedFilesKept: true,
  devicePauseMs: 50,
  syslogAt: null,
  ...differs,
});

/** What is known of the certificate of a client. */
export const identity = (id: string, application: string, thumbprint: string | null): ClientIdentityView => ({
  applicationId: id,
  application,
  thumbprint,
  subject: thumbprint === null ? null : `CN=${application}`,
  notAfter: thumbprint === null ? null : '2030-01-01T00:00:00.000Z',
});

/** The first steps of a plant of which nothing but these was done. */
export const firstStepsAnswer = (...done: readonly FirstStepId[]): AnswerOf<'firstSteps'> => ({
  steps: [...firstSteps(new Set(done))],
});

/** A plant as its page asks for it: all rows of one part, with whatever they stand on. */
export function viewOf(
  known: AnswerOf<'plant'>,
  part: 'zones' | 'machines' | 'applications' | 'links',
  differs: Partial<AnswerOf<'plantView'>> = {},
): AnswerOf<'plantView'> {
  const { name, zones, machines, applications, links } = known;
  return {
    name,
    counts: { zones: zones.length, machines: machines.length, applications: applications.length, links: links.length },
    fitting: known[part].length,
    from: 0,
    ids: known[part].map(({ id }) => id),
    machinesIn: Object.fromEntries(zones.map(({ id }) => [id, machines.filter(({ zoneId }) => zoneId === id).length])),
    zones,
    machines,
    applications,
    links,
    ...differs,
  };
}
