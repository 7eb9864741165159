import { accountJobs } from './accounts/jobs.js';
import { accountWords } from './accounts/orders/words.js';
import { auditJobs } from './audit/jobs.js';
import { casebookJobs } from './casebook/jobs.js';
import { dcomJobs } from './dcom/jobs.js';
import { passageJobs } from './passage/jobs.js';
import { passageWords } from './passage/orders/words.js';
import { dcomWords } from './dcom/orders/words.js';
import { entryJobs } from './entry/jobs.js';
import { doorWords } from './entry/orders/words.js';
import { orderJobs } from './orders/jobs.js';
import { plantJobs } from './plant/jobs.js';
import { tunnelWords } from './tunnels/orders/words.js';
import { tunnelJobs } from './tunnels/views/jobs.js';
import { mappingWords } from './field/orders/words.js';
import { fieldJobs } from './field/searches/jobs.js';
import { handOutJobs } from './hand-outs/jobs.js';
import { roundsJobs } from './rounds/jobs.js';
import { rightsJobs } from './rights/jobs.js';
import { trustJobs } from './trust/jobs.js';
import { trustWords } from './trust/orders/words.js';

/** All that is carried out in workers. */
export const jobs = {
  ...accountJobs,
  ...auditJobs,
  ...casebookJobs,
  ...dcomJobs,
  ...passageJobs,
  ...entryJobs,
  ...orderJobs({
    trust: trustWords,
    entry: doorWords,
    accounts: accountWords,
    dcom: dcomWords,
    passage: passageWords,
    tunnels: tunnelWords,
    field: mappingWords,
  }),
  ...tunnelJobs,
  ...plantJobs,
  ...rightsJobs,
  ...roundsJobs,
  ...fieldJobs,
  ...handOutJobs,
  ...trustJobs,
} as const;
export type AllJobs = typeof jobs;

/** Those that only read and put together. */
export const quickJobs: ReadonlySet<keyof AllJobs> = new Set<keyof AllJobs>([
  'plant',
  'exportPlant',
  'exportMachines',
  'exportPassage',
  'trustLinks',
  'trustParties',
  'linksThatMeet',
  'stepBack',
  'authority',
  'order',
  'linesThatHold',
  'linesAsTheyLie',
  'exportBundle',
  'entryView',
  'entryClosing',
  'doorWhatIf',
  'accounts',
  'casebookView',
  'caseView',
  'namedCase',
  'conversation',
  'messageBytes',
  'evidencePart',
  'timeline',
  'dcomMachines',
  'dcomView',
  'dcomDifferences',
  'passageView',
  'firewallView',
  'rulesWhatIf',
  'tunnelsView',
  'tunnelView',
  'tunnelChoices',
  'tunnelOrderLines',
  'takingDownLines',
  'access',
  'accessWhatIf',
]);
