import type { Application, PlantTrust, Shelf } from '@loyal-hinge/core';
import type { Database } from '../../database/database.js';
import type { Places } from '../../plant/places.js';
import type { Reading } from '../lists/readings.js';
import type { KeptWay } from '../lists/ways.js';
import { keeperOf } from './keeper.js';

/** Everything that is known of trust in the plant. */
export interface KnownTrust {
  readonly places: Places;
  readonly applications: ReadonlyMap<string, Application>;
  readonly trust: PlantTrust;
  readonly shelf: Shelf;
  readonly readings: ReadonlyMap<string, Reading>;
  readonly ways: ReadonlyMap<string, KeptWay>;
}

/** What is known of trust now. */
export const knownTrust = (db: Database): Promise<KnownTrust> => keeperOf(db).now();
