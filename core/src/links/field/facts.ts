import type { AddressConvention } from '../../field/modbus/addresses.js';
import type { ModbusTable } from '../../field/modbus/tables.js';
import type { SampledPlace } from '../../field/compare-origin.js';
import type { ValueForm } from '../../field/value-form.js';
import type { Instant } from '../../time.js';
import type { ConnectOutcome } from '../facts.js';

/** What is observed behind a server, at the devices whose values its items are. */
export type FieldFact =
  FieldOriginFact | FieldNameFact | FieldReachFact | FieldAnswerFact | FieldComparedFact | FieldUnmovedFact;

/** Where an item’s value comes from, as the plant states it. */
export interface FieldOriginFact {
  readonly kind: 'field-origin';
  readonly path: string;
  readonly deviceId: string;
  /** null: the plant has no such machine any more. */
  readonly device: string | null;
  readonly port: number;
  readonly unit: number;
  readonly table: ModbusTable;
  /** On the wire, from 0. */
  readonly place: number;
  readonly convention: AddressConvention;
  readonly form: ValueForm;
  /** How far the values may be apart; null: as far as rounding goes. */
  readonly within: number | null;
}

export interface FieldNameFact {
  readonly kind: 'field-name';
  readonly deviceId: string;
  readonly device: string;
  /** null: it has no host name, and its addresses are used as the plant has them. */
  readonly host: string | null;
  readonly addresses: readonly string[];
  readonly failure: string | null;
}

export interface FieldReachFact {
  readonly kind: 'field-reach';
  readonly deviceId: string;
  readonly device: string;
  readonly address: string;
  readonly port: number;
  /** The near address, where it was the one of the server’s machine. */
  readonly from: string | null;
  /** `withheld`: it is outside the declared ranges, and was not dialled. */
  readonly outcome: ConnectOutcome | 'withheld';
  readonly ms: number;
  /** Firewalls on the way that stop it, by their rules as they are known. */
  readonly stoppedBy: readonly { readonly name: string; readonly rule: string | null }[];
}

/** What came of asking a device for one run of its places. */
export interface FieldAnswerFact {
  readonly kind: 'field-answer';
  readonly deviceId: string;
  readonly device: string;
  readonly unit: number;
  readonly table: ModbusTable;
  readonly first: number;
  readonly count: number;
  /** The item for whose register it was asked. */
  readonly path: string;
  readonly outcome:
    'values' | 'exception' | 'silent' | 'closed' | 'reset' | 'foreign' | 'malformed' | 'other-transaction';
  /** Of an exception. */
  readonly code: number | null;
  /** Octets of an answer that was begun and not ended. */
  readonly received: number;
  /** What is wrong with what came. */
  readonly detail: string | null;
  readonly ms: number;
}

/** An item’s value at the server, and what stood around its register, some times one after another. */
export interface FieldComparedFact {
  readonly kind: 'field-compared';
  readonly path: string;
  readonly first: number;
  readonly samples: readonly (SampledPlace & { readonly at: Instant })[];
}

/** The register of an item has said the same in each check since. */
export interface FieldUnmovedFact {
  readonly kind: 'field-unmoved';
  readonly path: string;
  readonly since: Instant;
  readonly checks: number;
}
