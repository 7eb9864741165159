/** How far a plant has been described: what the guide for its first day needs to know. */
export interface PlantProgress {
  readonly declaredRanges: number;
  readonly zones: number;
  readonly machines: number;
  readonly servers: number;
  readonly clients: number;
  /** Client applications whose certificate and key are kept here. */
  readonly clientCertificates: number;
  readonly links: number;
  /** Checks that have come to their end. */
  readonly checks: number;
}

export const firstStepIds = ['ranges', 'zone', 'machine', 'server', 'client', 'certificate', 'link', 'check'] as const;
export type FirstStepId = (typeof firstStepIds)[number];

export interface FirstStep {
  readonly id: FirstStepId;
  readonly title: string;
  /** What it is good for, and what stops without it. */
  readonly why: string;
  readonly done: boolean;
}

const texts: Readonly<
  Record<FirstStepId, { readonly title: string; readonly why: string; done(told: PlantProgress): boolean }>
> = {
  ranges: {
    title: 'Declare the address ranges that may be dialled',
    why: 'Nothing outside them is ever dialled, so no check can begin without them.',
    done: ({ declaredRanges }) => declaredRanges > 0,
  },
  zone: {
    title: 'Add a zone',
    why: 'Every machine is in one zone, from the process outwards to the office.',
    done: ({ zones }) => zones > 0,
  },
  machine: {
    title: 'Add machines, or find the servers in a range',
    why: 'A machine has host names and addresses. A search adds servers with their machines.',
    done: ({ machines }) => machines > 0,
  },
  server: {
    title: 'Add a server application',
    why: 'It is known by its application URI and its ports. A search finds both.',
    done: ({ servers }) => servers > 0,
  },
  client: {
    title: 'Add a client application',
    why: 'A check dials as this client, with its name and its security policies.',
    done: ({ clients }) => clients > 0,
  },
  certificate: {
    title: 'Give the client its certificate and key',
    why: 'Without them only unsecured channels can be opened as this client.',
    done: ({ clientCertificates }) => clientCertificates > 0,
  },
  link: {
    title: 'Add a link',
    why: 'It says which client must be able to talk to which server, and what for.',
    done: ({ links }) => links > 0,
  },
  check: {
    title: 'Check the link',
    why: 'The check tries every step live, and says what stops and what to do.',
    done: ({ checks }) => checks > 0,
  },
};

/** The first day’s work in its order, with what is done of it. */
export const firstSteps = (told: PlantProgress): readonly FirstStep[] =>
  firstStepIds.map((id) => ({ id, title: texts[id].title, why: texts[id].why, done: texts[id].done(told) }));

/** The first of them that is still to be done; null: the plant is under way. */
export const nextFirstStep = (steps: readonly FirstStep[]): FirstStep | null => steps.find(({ done }) => !done) ?? null;
