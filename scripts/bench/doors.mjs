import { doorWhatIf, largestClosing, noFloor, securityPolicies, wayToClosing } from '../../core/dist/index.js';
import { timedOver } from './timing.mjs';

const sizes = [2_000, 10_000, 50_000];
const linksAServer = 10;
const warmUp = 2_000;
const rounds = 5;

/** Doors of whole plants: a what-if that closes weak ones everywhere, what can be closed at all, the way to closing all. */
export function doors(say) {
  say(`\nDoors of whole plants, eight to a server, ten links to a server (medians of ${rounds}):`);
  measured(warmUp);
  const results = sizes.map(measured);
  const [first] = results;
  for (const { links, whatIf, closing, way, turns, keep, isShortest } of results) {
    const growth = (whatIf / links / (first.whatIf / first.links)).toFixed(2);
    say(
      `  ${String(links).padStart(6)} links  what-if ${ms(whatIf)} (${turns} links turn; ${growth} times the time per link at ${first.links}), largest closing ${ms(closing)} (${keep} doors are needed), way to closing all ${ms(way)}${isShortest ? '' : ' (a short one, not proved shortest)'}`,
    );
  }
}

const ms = (value) => `${value < 10 ? value.toFixed(1) : Math.round(value)} ms`;

function measured(links) {
  const servers = plantDoors(links);
  const rules = [
    { serverId: null, policy: 'None', mode: null, token: null, to: 'closed' },
    { serverId: null, policy: 'Basic256', mode: null, token: null, to: 'closed' },
  ];
  const timed = (work) => timedOver(rounds, work);
  return {
    links,
    whatIf: timed(() => doorWhatIf(servers, rules)),
    closing: timed(() => largestClosing(servers, noFloor)),
    way: timed(() => wayToClosing(servers, noFloor)),
    turns: doorWhatIf(servers, rules).length,
    keep: largestClosing(servers, noFloor).keep.length,
    isShortest: wayToClosing(servers, noFloor).isShortest,
  };
}

/** Every server has four endpoints for two kinds of users; every tenth link has only what is deprecated, every twentieth nothing. */
function plantDoors(links) {
  return Array.from({ length: links / linksAServer }, (_, server) => ({
    id: `s${server}`,
    name: `Server ${server}`,
    endpoints: [
      endpoint('None', 'None'),
      endpoint('Basic256', 'SignAndEncrypt'),
      endpoint('Basic256Sha256', 'SignAndEncrypt'),
      endpoint('Aes256_Sha256_RsaPss', 'SignAndEncrypt'),
    ],
    links: Array.from({ length: linksAServer }, (_unused, at) => linkAt(server * linksAServer + at)),
  }));
}

const endpoint = (policy, securityMode) => ({
  endpointUrl: 'opc.tcp://s:4840',
  applicationUri: 'urn:s',
  securityPolicyUri: securityPolicies[policy].uri,
  securityMode,
  securityLevel: 0,
  userTokens: ['UserName', 'Anonymous'].map((tokenType) => ({
    policyId: tokenType,
    tokenType,
    securityPolicyUri: securityPolicies.Basic256Sha256.uri,
  })),
  certificate: null,
});

function linkAt(index) {
  const policies =
    index % 20 === 0 ? ['None'] : index % 10 === 0 ? ['Basic256'] : ['None', 'Basic256Sha256', 'Aes256_Sha256_RsaPss'];
  return {
    id: `l${index}`,
    name: `Link ${index}`,
    client: {
      id: `c${index % 997}`,
      name: `Client ${index % 997}`,
      securityPolicies: policies,
      securityModes: ['None', 'Sign', 'SignAndEncrypt'],
    },
    link: { chosenEndpoint: null, identity: { kind: 'user', userName: 'u' }, floor: 'any' },
    floor: noFloor,
  };
}
