/** The steps of an OPC UA link, in the order in which they have to work. */
export const stepIds = [
  'name',
  'reach',
  'hello',
  'endpoints',
  'policy',
  'server-certificate',
  'secure-channel',
  'client-certificate',
  'identity',
  'browse',
  'read',
  'watch',
  'write',
  'history',
  'alarms',
] as const;
export type StepId = (typeof stepIds)[number];

export interface Step {
  readonly id: StepId;
  readonly number: number;
  readonly title: string;
  /** What has to be true for the step to hold, in a practitioner's words. */
  readonly asks: string;
  readonly clause: string;
}

const step = (id: StepId, title: string, asks: string, clause: string): Step => ({
  id,
  number: stepIds.indexOf(id) + 1,
  title,
  asks,
  clause,
});

export const steps: readonly Step[] = [
  step('name', 'Name', 'Does the host name lead to the right machine?', 'Part 6 §7.1'),
  step('reach', 'Reach', 'Does something answer at that address and port?', 'Part 6 §7.2'),
  step('hello', 'Hello', 'Is it an OPC UA server at all?', 'Part 6 §7.1'),
  step('endpoints', 'Endpoints', 'What does the server offer, and at which address?', 'Part 4 §5.5'),
  step('policy', 'Policy', 'Which security do both sides have?', 'Part 7'),
  step('server-certificate', 'Server certificate', 'Does the client accept the server’s certificate?', 'Part 4 §6.1.3'),
  step('secure-channel', 'Channel', 'Does the secure channel open?', 'Part 4 §5.6'),
  step('client-certificate', 'Client certificate', 'Does the server accept the client’s certificate?', 'Part 4 §6.1.3'),
  step('identity', 'Identity', 'Is the user let in?', 'Part 4 §5.7'),
  step('browse', 'Browse', 'Are the needed items there?', 'Part 4 §5.9'),
  step('read', 'Read', 'Can their values be read, and are they good and fresh?', 'Part 4 §5.11.2'),
  step('watch', 'Watch', 'Do changes arrive by themselves?', 'Part 4 §5.13'),
  step('write', 'Write', 'Can the items be written that must be, and no others?', 'Part 4 §5.11.4'),
  step('history', 'History', 'Can earlier values be read?', 'Part 4 §5.11.3'),
  step('alarms', 'Alarms', 'Do events arrive by themselves?', 'Part 9 §5.5.7'),
];
