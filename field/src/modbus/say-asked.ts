import type { Asked } from './line.js';

/** Why a device did not answer a request, in a sentence. */
export function sayAsked(asked: Asked): string {
  switch (asked.outcome) {
    case 'silent':
      return asked.received === 0
        ? 'The device did not answer in time. Is the unit right?'
        : `The device began an answer and did not end it in time (${asked.received} octets).`;
    case 'closed':
      return asked.received === 0
        ? 'The device ended the connection instead of answering. Does it take one connection only?'
        : `The device ended the connection in the midst of an answer (${asked.received} octets).`;
    case 'reset':
      return 'The device broke the connection off. Does it take one connection only?';
    case 'foreign':
      return `What answers there does not speak Modbus: ${asked.why}.`;
    case 'malformed':
      return `The answer is wrong: ${asked.why}.`;
    case 'other-transaction':
      return 'The device answered another request than ours, and ours never.';
    case 'exception':
      return `The device answered with exception ${asked.code}.`;
    case 'values':
      return 'The device answered.';
    case 'cancelled':
      return 'It was ended.';
  }
}
