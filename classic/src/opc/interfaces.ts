import { fileTime } from '../automation/file-time.js';
import { variant } from '../automation/variant.js';
import { interfacePointer } from '../dcom/object-reference.js';
import { method } from '../dcom/orpc.js';
import {
  bool,
  conformant,
  conformantVarying,
  f32,
  guid,
  i32,
  octets,
  struct,
  u16,
  u32,
  unique,
  wideString,
} from '../ndr/codec.js';
import type { Codec, ValueOf } from '../ndr/codec.js';

/** Interfaces of OPC, by their numbers in the public definitions of Data Access 2.05a and 3.0, and of OPC Common 1.10. */
export const opcIids = {
  server: '39c13a4d-011e-11d0-9675-0020afd8adb3',
  browse2: '39c13a4f-011e-11d0-9675-0020afd8adb3',
  groupState: '39c13a50-011e-11d0-9675-0020afd8adb3',
  syncIo: '39c13a52-011e-11d0-9675-0020afd8adb3',
  itemManagement: '39c13a54-011e-11d0-9675-0020afd8adb3',
  dataCallback: '39c13a70-011e-11d0-9675-0020afd8adb3',
  asyncIo2: '39c13a71-011e-11d0-9675-0020afd8adb3',
  itemProperties: '39c13a72-011e-11d0-9675-0020afd8adb3',
  itemIo: '85c0b427-2893-4cbc-bd78-e5fc5146f08f',
  common: 'f31dfde2-07b6-11d2-b2d8-0060083ba1fb',
  shutdown: 'f31dfde1-07b6-11d2-b2d8-0060083ba1fb',
  serverList: '13486d50-4821-11d2-a494-3cb306c10000',
  serverList2: '9dd0b56c-ad9e-43ee-8305-487f3188bf7a',
  enumGuid: '55c382c8-21c7-4e88-96c1-becfb1e3f483',
  plainEnumGuid: '0002e000-0000-0000-c000-000000000046',
  enumString: '00000101-0000-0000-c000-000000000046',
  connectionPoints: 'b196b284-bab4-101a-b69c-00aa00341d07',
  connectionPoint: 'b196b286-bab4-101a-b69c-00aa00341d07',
} as const;

/** The class of a machine’s server list, and what servers are listed as. */
export const serverListClass = '13486d51-4821-11d2-a494-3cb306c10000';
export const categories = {
  'DA 1': '63d5f430-cfe4-11d1-b2c8-0060083ba1fb',
  'DA 2': '63d5f432-cfe4-11d1-b2c8-0060083ba1fb',
  'DA 3': 'cc603642-66d7-48f1-b69a-b625e73652d7',
  HDA: '7de5b060-e089-11d2-a5e6-000086339399',
  'A&E': '58e13251-ac87-11d1-84d5-00608cb8a7e9',
} as const;
export type Category = keyof typeof categories;

/** Enumerations go as 16 bits (C706 14.2.5). */
const enumeration = u16;
/** [out, string] LPWSTR*: a pointer to a text. */
const text = unique(wideString);
const pointer = unique(interfacePointer);
/** [out, size_is(,count)] T**: a pointer to an array. */
const list = <Value>(of: Codec<Value>) => unique(conformant(of));
const handles = conformant(u32);
const errors = list(u32);

export const serverStates = [
  'running',
  'failed',
  'no configuration',
  'suspended',
  'test',
  'communication fault',
] as const;
export type ServerState = (typeof serverStates)[number];

const serverStatus = struct({
  startTime: fileTime,
  currentTime: fileTime,
  lastUpdateTime: fileTime,
  state: enumeration,
  groupCount: u32,
  bandwidth: u32,
  major: u16,
  minor: u16,
  build: u16,
  reserved: u16,
  vendor: text,
});

/** IOPCServer (Data Access 2.05a, 4.4.3). */
export const server = {
  addGroup: method(
    3,
    {
      name: wideString,
      isActive: bool,
      updateRateMs: u32,
      clientHandle: u32,
      timeBias: unique(i32),
      deadband: unique(f32),
      locale: u32,
      iid: guid,
    },
    { serverHandle: u32, revisedUpdateRateMs: u32, group: pointer },
  ),
  getErrorString: method(4, { error: u32, locale: u32 }, { text }),
  getGroupByName: method(5, { name: wideString, iid: guid }, { group: pointer }),
  getStatus: method(6, {}, { status: unique(serverStatus) }),
  removeGroup: method(7, { serverHandle: u32, force: bool }, {}),
  createGroupEnumerator: method(8, { scope: enumeration, iid: guid }, { enumerator: pointer }),
};

export const nameSpaces = { hierarchical: 1, flat: 2 } as const;
export const directions = { up: 1, down: 2, to: 3 } as const;
export const browseKinds = { branch: 1, leaf: 2, flat: 3 } as const;

/** IOPCBrowseServerAddressSpace (4.4.5). */
export const browse2 = {
  queryOrganization: method(3, {}, { nameSpace: enumeration }),
  changeBrowsePosition: method(4, { direction: enumeration, to: wideString }, {}),
  browseItemIds: method(
    5,
    { kind: enumeration, filter: wideString, type: u16, accessRights: u32 },
    { enumerator: pointer },
  ),
  getItemId: method(6, { name: wideString }, { itemId: text }),
  browseAccessPaths: method(7, { itemId: wideString }, { enumerator: pointer }),
};

export const itemDefinition = struct({
  accessPath: text,
  itemId: text,
  isActive: bool,
  clientHandle: u32,
  blobSize: u32,
  blob: unique(octets),
  type: u16,
  reserved: u16,
});
export type ItemDefinition = ValueOf<typeof itemDefinition>;
const itemResult = struct({
  serverHandle: u32,
  type: u16,
  reserved: u16,
  accessRights: u32,
  blobSize: u32,
  blob: unique(octets),
});
const addsItems = { results: list(itemResult), errors };

/** IOPCItemMgt (4.5.2). */
export const itemManagement = {
  addItems: method(3, { count: u32, items: conformant(itemDefinition) }, addsItems),
  validateItems: method(4, { count: u32, items: conformant(itemDefinition), withBlobs: bool }, addsItems),
  removeItems: method(5, { count: u32, serverHandles: handles }, { errors }),
  setActiveState: method(6, { count: u32, serverHandles: handles, isActive: bool }, { errors }),
  setClientHandles: method(7, { count: u32, serverHandles: handles, clientHandles: handles }, { errors }),
  setDatatypes: method(8, { count: u32, serverHandles: handles, types: conformant(u16) }, { errors }),
  createEnumerator: method(9, { iid: guid }, { enumerator: pointer }),
};

/** IOPCGroupStateMgt (4.5.3). */
export const groupState = {
  getState: method(
    3,
    {},
    {
      updateRateMs: u32,
      isActive: bool,
      name: text,
      timeBias: i32,
      deadband: f32,
      locale: u32,
      clientHandle: u32,
      serverHandle: u32,
    },
  ),
  setState: method(
    4,
    {
      updateRateMs: unique(u32),
      isActive: unique(bool),
      timeBias: unique(i32),
      deadband: unique(f32),
      locale: unique(u32),
      clientHandle: unique(u32),
    },
    { revisedUpdateRateMs: u32 },
  ),
  setName: method(5, { name: wideString }, {}),
  cloneGroup: method(6, { name: wideString, iid: guid }, { group: pointer }),
};

export const sources = { cache: 1, device: 2 } as const;
const itemState = struct({ clientHandle: u32, timestamp: fileTime, quality: u16, reserved: u16, value: variant });

/** IOPCSyncIO (4.5.4). */
export const syncIo = {
  read: method(3, { source: enumeration, count: u32, serverHandles: handles }, { values: list(itemState), errors }),
  write: method(4, { count: u32, serverHandles: handles, values: conformant(variant) }, { errors }),
};

/** IOPCAsyncIO2 (4.5.6), of which a subscription needs two. */
export const asyncIo2 = {
  refresh: method(5, { source: enumeration, transaction: u32 }, { cancel: u32 }),
  cancel: method(6, { cancel: u32 }, {}),
  setEnable: method(7, { isEnabled: bool }, {}),
  getEnable: method(8, {}, { isEnabled: bool }),
};

const vqt = struct({
  value: variant,
  hasQuality: bool,
  quality: u16,
  reserved: u16,
  hasTimestamp: bool,
  reserved2: u32,
  timestamp: fileTime,
});

/** IOPCItemIO (Data Access 3.0, 4.3.7): values by their names, without a group. */
export const itemIo = {
  read: method(
    3,
    { count: u32, itemIds: conformant(text), maxAges: conformant(u32) },
    { values: list(variant), qualities: list(u16), timestamps: list(fileTime), errors },
  ),
  write: method(4, { count: u32, itemIds: conformant(text), values: conformant(vqt) }, { errors }),
};

/** IOPCItemProperties (4.4.6): what a server tells of an item beside its value. */
export const itemProperties = {
  available: method(
    3,
    { itemId: wideString },
    { count: u32, ids: list(u32), descriptions: list(text), types: list(u16) },
  ),
  values: method(4, { itemId: wideString, count: u32, ids: conformant(u32) }, { values: list(variant), errors }),
  itemIdsOf: method(5, { itemId: wideString, count: u32, ids: conformant(u32) }, { itemIds: list(text), errors }),
};

/** IConnectionPointContainer and IConnectionPoint (MS-OAUT’s neighbours; OPC Common 3.2). */
export const connectionPoints = {
  enumerate: method(3, {}, { enumerator: pointer }),
  find: method(4, { iid: guid }, { point: pointer }),
};
export const connectionPoint = {
  interfaceOf: method(3, {}, { iid: guid }),
  advise: method(5, { sink: pointer }, { cookie: u32 }),
  unadvise: method(6, { cookie: u32 }, {}),
};

const change = {
  transaction: u32,
  group: u32,
  masterQuality: u32,
  masterError: u32,
  count: u32,
  clientHandles: handles,
  values: conformant(variant),
  qualities: conformant(u16),
  timestamps: conformant(fileTime),
  errors: conformant(u32),
};

/** IOPCDataCallback (4.6.1): the way back. */
export const dataCallback = {
  onDataChange: method(3, change, {}),
  onReadComplete: method(4, change, {}),
  onWriteComplete: method(
    5,
    { transaction: u32, group: u32, masterError: u32, count: u32, clientHandles: handles, errors: conformant(u32) },
    {},
  ),
  onCancelComplete: method(6, { transaction: u32, group: u32 }, {}),
};
export type DataChange = ValueOf<typeof dataCallback.onDataChange.in>;

/** IOPCShutdown (OPC Common 3.3). */
export const shutdown = { shutdownRequest: method(3, { reason: wideString }, {}) };

/** IOPCCommon (OPC Common 3.1). */
export const common = {
  setLocale: method(3, { locale: u32 }, {}),
  getLocale: method(4, {}, { locale: u32 }),
  availableLocales: method(5, {}, { count: u32, locales: list(u32) }),
  getErrorString: method(6, { error: u32 }, { text }),
  setClientName: method(7, { name: wideString }, {}),
};

/** IOPCServerList and IOPCServerList2 (OPC Common 6.4). */
export const serverList = {
  classesOfCategories: method(
    3,
    { implementedCount: u32, implemented: conformant(guid), requiredCount: u32, required: conformant(guid) },
    { enumerator: pointer },
  ),
  classDetails: method(4, { clsid: guid }, { progId: text, userType: text }),
  clsidFromProgId: method(5, { progId: wideString }, { clsid: guid }),
};
export const serverList2 = {
  ...serverList,
  classDetails: method(4, { clsid: guid }, { progId: text, userType: text, versionIndependentProgId: text }),
};

/** Enumerators: some at a time, until fewer come than were asked for. */
export const enumGuid = {
  next: method(3, { count: u32 }, { found: conformantVarying(guid), fetched: u32 }),
  skip: method(4, { count: u32 }, {}),
  reset: method(5, {}, {}),
};
export const enumString = {
  next: method(3, { count: u32 }, { found: conformantVarying(text), fetched: u32 }),
  skip: method(4, { count: u32 }, {}),
  reset: method(5, {}, {}),
};
