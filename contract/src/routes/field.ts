import * as z from 'zod';
import {
  deviceReaders,
  deviceReading,
  deviceReadingWish,
  devicesView,
  deviceUnits,
  deviceUnitsWish,
  deviceView,
  originPattern,
  originRow,
  originsCsv,
  originsQuery,
  originsRemoval,
  originsTaken,
  originsView,
  originWish,
  registerSearch,
  registerSearchWish,
} from '../field.js';
import { at } from './addresses.js';
import { nothing, route } from './route.js';

/** Where the values of items come from: devices behind servers. */
export const fieldRoutes = {
  origins: route(at.origins, {
    summary: 'Where the values of items come from, of one server or from one device',
    role: 'viewer',
    query: originsQuery,
    answer: originsView,
  }),
  originsAsCsv: route(at.originsAsCsv, {
    summary: 'The origins of a server’s items as CSV, as it can be brought again',
    role: 'viewer',
    answer: z.object({ csv: z.string() }),
  }),
  putOrigin: route(at.putOrigin, {
    summary: 'States where the value of an item comes from',
    role: 'engineer',
    body: originWish,
    answer: originRow,
  }),
  putOriginPattern: route(at.putOriginPattern, {
    summary: 'States where the values of many items come from, by a pattern',
    role: 'engineer',
    body: originPattern,
    answer: z.object({ kept: z.int() }),
  }),
  takeOrigins: route(at.takeOrigins, {
    summary: 'Takes origins from CSV; each line that is wrong is told',
    role: 'engineer',
    body: originsCsv,
    answer: originsTaken,
  }),
  removeOrigins: route(at.removeOrigins, {
    summary: 'Removes the origins of some items',
    role: 'engineer',
    body: originsRemoval,
    answer: nothing,
  }),
  searchRegister: route(at.searchRegister, {
    summary: 'Begins to search the register of a device from which an item’s value comes',
    role: 'engineer',
    body: registerSearchWish,
    answer: registerSearch,
  }),
  registerSearches: route(at.registerSearches, {
    summary: 'The searches on a link that this server knows of, the newest first',
    role: 'viewer',
    answer: z.object({ searches: z.array(registerSearch) }),
  }),
  registerSearch: route(at.registerSearch, {
    summary: 'How a search for a register goes, and what it has found',
    role: 'viewer',
    answer: registerSearch,
  }),
  stopRegisterSearch: route(at.stopRegisterSearch, {
    summary: 'Ends a search for a register with what it has seen',
    role: 'engineer',
    answer: nothing,
  }),
  devices: route(at.devices, {
    summary: 'Devices from which items come',
    role: 'viewer',
    answer: devicesView,
  }),
  device: route(at.device, {
    summary: 'A device: what answered last, which items come from it, and which of its registers they are',
    role: 'viewer',
    answer: deviceView,
  }),
  deviceReaders: route(at.deviceReaders, {
    summary: 'Who can read a device: the server, or a probe from where it runs',
    role: 'viewer',
    answer: deviceReaders,
  }),
  readDevice: route(at.readDevice, {
    summary: 'Reads some places of a device now; nothing is written',
    role: 'engineer',
    body: deviceReadingWish,
    answer: deviceReading,
  }),
  askUnits: route(at.askUnits, {
    summary: 'Finds out which of some units of a device answer',
    role: 'engineer',
    body: deviceUnitsWish,
    answer: deviceUnits,
  }),
};
