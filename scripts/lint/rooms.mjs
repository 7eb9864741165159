/**
 * The rooms of the server and who may use whom. A room is a folder; parts of trust are rooms of their own. What is not in
 * a room (main, start-server, jobs, worker) puts all of them together and may use everything.
 */

/** What every room may use: it knows no plant. A foundation may use those that stand before it. */
export const foundations = ['system', 'database', 'http', 'processes', 'events', 'heavy', 'audit', 'secrets', 'ua'];

/** Each room with those that it may use beside the foundations. */
export const rooms = {
  certificates: [],
  facts: [],
  'link-history': [],
  papers: [],
  probe: [],
  proposals: [],
  people: [],
  orders: ['proposals'],
  plant: ['certificates', 'facts', 'probe', 'proposals'],
  'trust/lists': ['certificates'],
  'trust/waivers': ['certificates', 'plant', 'proposals'],
  'entry/floor': ['plant', 'proposals'],
  'accounts/tries': ['probe'],
  'accounts/certificates': ['certificates'],
  means: [
    'dcom',
    'field',
    'passage',
    'tunnels',
    'accounts/certificates',
    'accounts/tries',
    'entry/floor',
    'certificates',
    'facts',
    'orders',
    'plant',
    'probe',
    'proposals',
    'trust/lists',
    'trust/waivers',
  ],
  links: ['certificates', 'facts', 'field', 'link-history', 'means', 'plant', 'probe', 'trust/lists', 'tunnels'],
  administration: ['accounts/tries', 'certificates', 'means', 'plant', 'probe', 'trust/lists'],
  'trust/push': ['administration', 'certificates', 'means', 'orders', 'plant', 'probe', 'trust/lists'],
  'trust/authorities': ['certificates', 'facts', 'orders', 'plant', 'trust/lists', 'trust/push', 'trust/known'],
  'trust/known': ['certificates', 'facts', 'plant', 'trust/lists', 'trust/waivers'],
  'trust/bundles': ['certificates', 'orders', 'plant', 'proposals', 'trust/lists', 'trust/known'],
  'trust/found': ['certificates', 'plant', 'trust/lists', 'trust/known'],
  'trust/views': [
    'certificates',
    'orders',
    'plant',
    'trust/authorities',
    'trust/lists',
    'trust/waivers',
    'trust/known',
  ],
  'trust/orders': ['certificates', 'orders', 'trust/authorities', 'trust/lists', 'trust/push', 'trust/known'],
  trust: [
    'certificates',
    'means',
    'orders',
    'plant',
    'trust/authorities',
    'trust/bundles',
    'trust/found',
    'trust/known',
    'trust/lists',
    'trust/push',
    'trust/views',
    'trust/waivers',
  ],
  entry: ['entry/floor', 'facts', 'orders', 'plant'],
  accounts: [
    'accounts/certificates',
    'accounts/tries',
    'administration',
    'certificates',
    'entry',
    'means',
    'orders',
    'plant',
    'trust/lists',
  ],
  mending: ['certificates', 'links', 'means', 'orders', 'plant', 'proposals', 'trust/lists', 'trust/push'],
  bench: ['links', 'means', 'probe'],
  reports: ['administration', 'plant'],
  'field/origins': ['plant'],
  field: ['field/origins', 'passage', 'plant', 'probe'],
  'field/devices': ['facts', 'field/origins', 'plant', 'probe'],
  'field/orders': ['facts', 'orders', 'plant'],
  'field/searches': ['bench', 'facts', 'field/origins', 'means', 'plant', 'probe'],
  rights: ['facts', 'means', 'papers', 'plant', 'probe'],
  casebook: ['certificates', 'facts', 'link-history', 'plant', 'probe'],
  rounds: ['link-history', 'links', 'plant'],
  'hand-outs': ['casebook', 'facts', 'link-history', 'papers', 'plant', 'rounds'],
  recipients: ['link-history', 'probe'],
  dcom: ['orders', 'plant'],
  outposts: ['certificates', 'plant'],
  probes: ['outposts', 'plant', 'probe'],
  tunnels: ['certificates', 'orders', 'outposts', 'plant'],
  'tunnels/orders': ['facts', 'orders', 'outposts', 'passage', 'plant', 'tunnels'],
  'tunnels/views': ['orders', 'outposts', 'passage', 'plant', 'tunnels', 'tunnels/orders'],
  gateways: ['certificates', 'entry/floor', 'facts', 'means', 'outposts', 'plant', 'trust/lists', 'tunnels'],
  passage: ['dcom', 'field/origins', 'orders', 'plant', 'tunnels'],
  settings: ['casebook', 'certificates', 'links', 'plant', 'proposals', 'trust/authorities'],
  'own-tls': ['trust/authorities'],
  search: ['plant'],
  setup: [
    'accounts/certificates',
    'certificates',
    'dcom',
    'field/origins',
    'passage',
    'people',
    'plant',
    'own-tls',
    'trust/authorities',
    'trust/lists',
  ],
};

/** The rooms that a room may use, foundations among them. */
export function usableFrom(room) {
  const at = foundations.indexOf(room);
  return at >= 0 ? foundations.slice(0, at) : [...foundations, ...(rooms[room] ?? [])];
}

/** The first circle among the allowed arrows, as the rooms on it; null where there is none. */
export function circleAmong(arrows) {
  const done = new Set();
  const walk = (room, way) => {
    const at = way.indexOf(room);
    if (at >= 0) return [...way.slice(at), room];
    if (done.has(room)) return null;
    for (const next of arrows[room] ?? []) {
      const circle = walk(next, [...way, room]);
      if (circle) return circle;
    }
    done.add(room);
    return null;
  };
  for (const room of Object.keys(arrows)) {
    const circle = walk(room, []);
    if (circle) return circle;
  }
  return null;
}
