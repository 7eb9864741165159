import type { Caller } from '../../server/src/testing/calls.js';

/** Puts a client with a certificate and key into an empty plant: from then on something is sealed. */
export async function addViewer(me: Caller): Promise<void> {
  await me.call('putZone', { id: 'hall' }, { id: 'hall', name: 'Hall', order: 1 });
  await me.call(
    'putMachine',
    { id: 'desk' },
    {
      id: 'desk',
      zoneId: 'hall',
      name: 'Desk',
      description: '',
      hostNames: ['desk.marrowby.example'],
      addresses: [],
    },
  );
  await me.call(
    'putApplication',
    { id: 'viewer' },
    {
      kind: 'client',
      id: 'viewer',
      machineId: 'desk',
      name: 'Viewer',
      applicationUri: 'urn:desk.marrowby.example:viewer',
      securityPolicies: ['Basic256Sha256'],
      securityModes: ['SignAndEncrypt'],
    },
  );
  await me.call(
    'putIdentity',
    { id: 'viewer' },
    {
      by: 'making',
      keyKind: 'RSA 2048',
      commonName: 'Viewer',
      organization: 'Marrowby Glass',
      hosts: ['desk.marrowby.example'],
      validDays: 30,
      authority: null,
    },
  );
}
