import { exceptionWords } from '../../field/modbus/exceptions.js';
import { tableShapes } from '../../field/modbus/tables.js';
import { dayOf, spanOf } from '../../time.js';
import { counted, listed } from '../wording.js';
import type { FieldAnswerFact, FieldFact, FieldReachFact } from './facts.js';
import { sayOrigin, sayValue } from './origin-sight.js';

/** One sentence for a fact from behind a server. */
export function sayFieldFact(fact: FieldFact): string {
  switch (fact.kind) {
    case 'field-origin':
      return `The value of ${fact.path} comes from ${fact.device ?? `the machine “${fact.deviceId}”, which the plant does not have`}, port ${fact.port}, ${sayOrigin(fact)}.`;
    case 'field-name':
      return fact.failure !== null
        ? `${fact.host ?? fact.device} has no address: ${fact.failure}`
        : `${fact.host ?? fact.device} is ${listed(fact.addresses)}.`;
    case 'field-reach':
      return sayReach(fact);
    case 'field-answer':
      return sayAnswer(fact);
    case 'field-compared': {
      const last = fact.samples.at(-1);
      const values = fact.samples.map(({ value }) => (value === null ? 'nothing' : sayValue(value)));
      return `${fact.path} was read ${counted(fact.samples.length, 'time')} together with its register. The server gave ${listed([...new Set(values)].slice(0, 6))}; the registers from ${fact.first} on were ${listed((last?.words ?? []).map((word) => (word === null ? 'not there' : String(word))))}.`;
    }
    case 'field-unmoved':
      return `The register of ${fact.path} has not changed since ${dayOf(fact.since)}, in ${counted(fact.checks, 'check')}.`;
  }
}

function sayReach({ device, address, port, outcome, ms, from, stoppedBy }: FieldReachFact): string {
  const rules = stoppedBy.map(({ name, rule }) => (rule === null ? name : `${name} (${rule})`));
  const stops = rules.length > 0 ? ` By their rules, ${listed(rules)} would stop it.` : '';
  if (outcome === 'withheld') return `${device}, ${address}, was not dialled: it is outside the declared ranges.`;
  const words = {
    open: 'accepted the connection',
    refused: 'refused the connection',
    silent: 'did not answer',
    unreachable: 'can’t be reached',
    reset: 'broke the connection off',
  } as const;
  return `${device}, ${address} port ${port}, ${words[outcome]} after ${spanOf(ms)}${from ? `, dialled from ${from}` : ''}.${stops}`;
}

function sayAnswer(fact: FieldAnswerFact): string {
  const { one, many } = tableShapes[fact.table];
  const asked = `Asked for ${counted(fact.count, one, many)} from ${fact.first} on, unit ${fact.unit} of ${fact.device}`;
  switch (fact.outcome) {
    case 'values':
      return `${asked} answered in ${spanOf(fact.ms)}.`;
    case 'exception':
      return `${asked} answered with exception ${fact.code ?? 0}: ${exceptionWords(fact.code ?? 0).name}.`;
    case 'silent':
      return fact.received > 0
        ? `${asked} began an answer and did not end it within ${spanOf(fact.ms)} (${counted(fact.received, 'octet')} came).`
        : `${asked} did not answer within ${spanOf(fact.ms)}.`;
    case 'closed':
      return fact.received > 0
        ? `${asked} ended the connection in the midst of its answer (${counted(fact.received, 'octet')} came).`
        : `${asked} ended the connection without an answer.`;
    case 'reset':
      return `${asked} broke the connection off without an answer.`;
    case 'foreign':
      return `${asked} answered in another protocol: ${fact.detail ?? ''}.`;
    case 'malformed':
      return `${asked} gave a wrong answer: ${fact.detail ?? ''}.`;
    case 'other-transaction':
      return `${asked} answered another request than this one.`;
  }
}
