import type { Router } from 'express';
import type { Database } from '../../database/database.js';
import { serve } from '../../http/serve.js';
import type { FindActor } from '../../http/serve.js';
import type { DeviceReadings } from './reading.js';
import { deviceOf, devicesOf } from './view.js';

export function deviceRoutes(router: Router, findActor: FindActor, db: Database, readings: DeviceReadings): void {
  const deviceIn = (params: Readonly<Record<string, string>>): string => params['deviceId'] ?? '';
  serve(router, findActor, 'devices', () => devicesOf(db));
  serve(router, findActor, 'device', ({ params }) => deviceOf(db, deviceIn(params)));
  serve(router, findActor, 'readDevice', ({ params, body, signal }, { name }) =>
    readings.read(deviceIn(params), body, name, signal),
  );
  serve(router, findActor, 'askUnits', ({ params, body, signal }, { name }) =>
    readings.units(deviceIn(params), body, name, signal),
  );
}
