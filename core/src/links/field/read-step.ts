import { isAboutUnit } from '../../field/modbus/exceptions.js';
import type { Sight } from '../cause.js';
import { reading, unknown } from '../read-step.js';
import type { StepReading } from '../read-step.js';
import type { FieldStepId } from '../steps.js';
import { counted, listed } from '../wording.js';
import { spanOf } from '../../time.js';
import { endsAtOnce, isServedFrom } from './out-of-reach.js';
import { comparedOrigins, devicesOf, sayValue } from './origin-sight.js';

/** Reads a step behind the server from the facts of one check. */
export const readFieldStep = (sight: Sight, step: FieldStepId): StepReading =>
  sight.facts.latest('field-origin')
    ? readers[step](sight)
    : reading('not-needed', 'No item of this link states where its value comes from.', []);

const readers: Readonly<Record<FieldStepId, (sight: Sight) => StepReading>> = {
  'device-name'({ facts }) {
    const named = facts.all('field-name');
    const missing = facts.all('field-origin').filter(({ device }) => device === null);
    if (missing.length > 0) return reading('fails', 'The plant does not have the device.', missing);
    if (named.length < devicesOf(facts).length) return unknown;
    const nameless = named.filter(({ addresses }) => addresses.length === 0);
    return nameless.length > 0
      ? reading('fails', `${listed(nameless.map(({ device }) => device))} has no address.`, nameless)
      : reading('holds', named.map(({ device, addresses }) => `${device} is ${listed(addresses)}.`).join(' '), named);
  },

  'device-reach'({ facts }) {
    const dialled = facts.all('field-reach');
    if (dialled.length < devicesOf(facts).length) return unknown;
    const closed = dialled.filter(({ outcome }) => outcome !== 'open');
    if (closed.every(({ outcome }) => outcome === 'withheld') && closed.length > 0)
      return { ...unknown, summary: 'It was not dialled.', facts: closed };
    if (closed.length > 0 && closed.every((fact) => fact.outcome === 'withheld' || isServedFrom(facts, fact)))
      return { ...unknown, summary: 'It can’t be seen from here.', facts: closed };
    return closed.length > 0
      ? reading(
          'fails',
          closed.map(({ device, port, outcome }) => `${device} port ${port}: ${outcome}.`).join(' '),
          closed,
        )
      : reading('holds', dialled.map(({ device, port }) => `${device} port ${port} answers.`).join(' '), dialled);
  },

  'device-answers'({ facts }) {
    const asked = facts.all('field-answer');
    if (asked.length === 0) return unknown;
    const answered = asked.filter(
      ({ outcome, code }) => outcome === 'values' || (outcome === 'exception' && !isAboutUnit(code ?? 0)),
    );
    const amiss = asked.filter((fact) => !answered.includes(fact));
    if (amiss.length > 0 && amiss.every((fact) => endsAtOnce(fact) && isServedFrom(facts, fact)))
      return { ...unknown, summary: 'It ends the connection at once, and serves somebody else.', facts: amiss };
    if (amiss.length > 0) return reading('fails', 'A device does not answer as it should.', amiss);
    if (facts.all('field-reach').some(({ outcome }) => outcome !== 'open')) return unknown;
    const slowestMs = Math.max(...answered.map(({ ms }) => ms));
    return reading('holds', `Answered within ${spanOf(slowestMs)}.`, answered);
  },

  register({ facts }) {
    const asked = facts.all('field-answer');
    const origins = facts.all('field-origin');
    const refused = asked.filter(({ outcome, code }) => outcome === 'exception' && !isAboutUnit(code ?? 0));
    if (refused.length > 0) return reading('fails', `${counted(refused.length, 'register')} can’t be read.`, refused);
    const read = asked.filter(({ outcome }) => outcome === 'values');
    return origins.every(({ path }) => read.some((fact) => fact.path === path))
      ? reading('holds', `${counted(read.length, 'register')} read.`, read)
      : unknown;
  },

  'origin-value'({ facts }) {
    const compared = comparedOrigins(facts);
    const told = compared.filter(({ comparison }) => comparison.outcome !== 'untold');
    const apart = told.filter(({ comparison }) => comparison.outcome === 'differs');
    const seen = told.map((one) => one.compared);
    if (apart.length > 0)
      return reading(
        'fails',
        apart
          .flatMap(({ origin, comparison }) =>
            comparison.outcome === 'differs'
              ? `${origin.path} is ${sayValue(comparison.value)} at the server and ${sayValue(comparison.device)} at the device.`
              : [],
          )
          .join(' '),
        apart.map((one) => one.compared),
      );
    return told.length === facts.all('field-origin').length
      ? reading('holds', `${counted(told.length, 'value')} at the server and at the device agree.`, seen)
      : { ...unknown, facts: seen };
  },
};
