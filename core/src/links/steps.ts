/** The steps of an OPC UA link, in the order in which they have to work. */
const uaStepIds = [
  'name',
  'passage',
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
/** The steps of a classic link, in their order; those that mean the same have the same names. */
const classicStepIds = [
  'name',
  'passage',
  'reach',
  'mapper',
  'bindings',
  'sign-in',
  'class',
  'activation',
  'object-port',
  'access',
  'browse',
  'read',
  'watch',
  'write',
] as const;
/** Steps behind a server of either kind, at the devices whose values its items are; only where an item states its origin. */
const fieldStepIds = ['device-name', 'device-reach', 'device-answers', 'register', 'origin-value'] as const;
export type FieldStepId = (typeof fieldStepIds)[number];
export type UaStepId = (typeof uaStepIds)[number] | FieldStepId;
export type ClassicStepId = (typeof classicStepIds)[number] | FieldStepId;

/** Whether a step is behind the server. */
export const isFieldStep = (id: StepId): id is FieldStepId => (fieldStepIds as readonly StepId[]).includes(id);
export type StepId = UaStepId | ClassicStepId;
/** The steps of all kinds. */
export const stepIds: readonly StepId[] = [...new Set<StepId>([...uaStepIds, ...classicStepIds, ...fieldStepIds])];

export interface Step {
  readonly id: StepId;
  readonly number: number;
  readonly title: string;
  /** What has to be true for the step to hold, in a practitioner's words. */
  readonly asks: string;
  readonly clause: string;
}

const stepIn =
  <Id extends StepId>(order: readonly Id[]) =>
  (id: Id, title: string, asks: string, clause: string): Step => ({
    id,
    number: order.indexOf(id) + 1,
    title,
    asks,
    clause,
  });
const step = stepIn<UaStepId>([...uaStepIds, ...fieldStepIds]);

const behindServer = (of: (id: FieldStepId, title: string, asks: string, clause: string) => Step): readonly Step[] => [
  of('device-name', 'Device name', 'Is the device known, and which address has it?', 'Modbus Messaging on TCP/IP §4.3'),
  of(
    'device-reach',
    'Device reach',
    'Does something answer at the device’s port?',
    'Modbus Messaging on TCP/IP §4.3.1',
  ),
  of('device-answers', 'Device', 'Does the unit answer in its protocol?', 'Modbus Messaging on TCP/IP §4.4'),
  of('register', 'Register', 'Can the item’s register be read?', 'Modbus Application Protocol §6'),
  of('origin-value', 'Origin', 'Is the server’s value what the device says?', 'Modbus Application Protocol §4.3'),
];

export const steps: readonly Step[] = [
  step('name', 'Name', 'Does the host name lead to the right machine?', 'Part 6 §7.1'),
  step('passage', 'Passage', 'Do the firewalls on the way let it through?', 'IEC 62443-3-2'),
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
  ...behindServer(step),
];

const classicStep = stepIn<ClassicStepId>([...classicStepIds, ...fieldStepIds]);

export const classicSteps: readonly Step[] = [
  classicStep('name', 'Name', 'Does the host name lead to the right machine?', 'MS-DCOM 2.1'),
  classicStep('passage', 'Passage', 'Do the firewalls let it through, there and back?', 'IEC 62443-3-2'),
  classicStep('reach', 'Reach', 'Does something answer at the mapper’s port?', 'MS-RPCE 2.1.1.1'),
  classicStep('mapper', 'Mapper', 'Does COM answer there?', 'MS-DCOM 3.1.2.5.1.6'),
  classicStep('bindings', 'Bindings', 'Can the client use an address that the machine advertises?', 'MS-DCOM 2.2.19.3'),
  classicStep('sign-in', 'Sign-in', 'Is the account let in, at the link’s level?', 'MS-RPCE 3.3.1.5.2'),
  classicStep('class', 'Class', 'Is the server’s class known there?', 'OPC Common 6.4'),
  classicStep(
    'activation',
    'Activation',
    'May the account start the server, and does it start?',
    'MS-DCOM 3.1.2.5.2.3.3',
  ),
  classicStep('object-port', 'Object port', 'Does the server’s own port answer?', 'MS-DCOM 3.2.4.1.1'),
  classicStep('access', 'Access', 'May the account call the server, and does it run?', 'Data Access 4.4.3.4'),
  classicStep('browse', 'Browse', 'Are the needed items there?', 'Data Access 4.4.5'),
  classicStep('read', 'Read', 'Can their values be read, and are they good and fresh?', 'Data Access 4.5.4.1'),
  classicStep('watch', 'Watch', 'Do changes come back to the client?', 'Data Access 4.6.1.1'),
  classicStep('write', 'Write', 'Can the items be written that must be?', 'Data Access 4.5.4.2'),
  ...behindServer(classicStep),
];
