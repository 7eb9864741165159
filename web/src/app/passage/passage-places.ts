/** The pages of the place “Passage”. */
export const passagePlaces = [
  { path: '/passage', name: 'Ways' },
  { path: '/passage/firewalls', name: 'Firewalls and conduits' },
  { path: '/passage/tunnels', name: 'Tunnels' },
  { path: '/passage/gateways', name: 'Gateways' },
  { path: '/passage/probes', name: 'Probes' },
] as const;
