export const firstStepIds = ['ranges', 'zone', 'machine', 'server', 'client', 'certificate', 'link', 'check'] as const;
export type FirstStepId = (typeof firstStepIds)[number];

export interface FirstStep {
  readonly id: FirstStepId;
  readonly title: string;
  /** What it is good for, and what stops without it. */
  readonly why: string;
  readonly done: boolean;
}

const texts: Readonly<Record<FirstStepId, { readonly title: string; readonly why: string }>> = {
  ranges: {
    title: 'Declare the address ranges that may be dialled',
    why: 'Nothing outside them is ever dialled, so no check can begin without them.',
  },
  zone: {
    title: 'Add a zone',
    why: 'Every machine is in one zone, from the process outwards to the office.',
  },
  machine: {
    title: 'Add machines, or find the servers in a range',
    why: 'A machine has host names and addresses. A search adds servers with their machines.',
  },
  server: {
    title: 'Add a server application',
    why: 'It is known by its application URI and its ports. A search finds both.',
  },
  client: {
    title: 'Add a client application',
    why: 'A check dials as this client, with its name and its security policies.',
  },
  certificate: {
    title: 'Give the client its certificate and key',
    why: 'Without them only unsecured channels can be opened as this client.',
  },
  link: {
    title: 'Add a link',
    why: 'It says which client must be able to talk to which server, and what for.',
  },
  check: {
    title: 'Check the link',
    why: 'The check tries every step live, and says what stops and what to do.',
  },
};

/** The first day’s work in its order, with what is done of it. */
export const firstSteps = (done: ReadonlySet<FirstStepId>): readonly FirstStep[] =>
  firstStepIds.map((id) => ({ id, ...texts[id], done: done.has(id) }));

/** The first of them that is still to be done; null: the plant is under way. */
export const nextFirstStep = (steps: readonly FirstStep[]): FirstStep | null => steps.find(({ done }) => !done) ?? null;
