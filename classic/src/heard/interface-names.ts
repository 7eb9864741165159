import { endpointMapper, iids, management, objectExporter, remoteActivator } from '../dcom/interfaces.js';
import { opcIids } from '../opc/interfaces.js';

interface Named {
  readonly name: string;
  readonly operations: Readonly<Record<number, string>>;
}

const remUnknown = { 3: 'RemQueryInterface', 4: 'RemAddRef', 5: 'RemRelease' };
const serverList = { 3: 'EnumClassesOfCategories', 4: 'GetClassDetails', 5: 'CLSIDFromProgID' };

/** Made by the mapper of older systems (MS-DCOM 3.1.2.5.2.1). */
export const activation = '4d9f4ab8-7d1c-11cf-861e-0020af6e7c57';

/** Interfaces and their operations by the names of their definitions (C706; MS-DCOM; Data Access 2.05a, 3.0; OPC Common 1.10). */
const names: Readonly<Record<string, Named>> = {
  [endpointMapper.uuid]: {
    name: 'endpoint mapper',
    operations: { 0: 'ept_insert', 1: 'ept_delete', 2: 'ept_lookup', 3: 'ept_map', 4: 'ept_lookup_handle_free' },
  },
  [management.uuid]: {
    name: 'RPC management',
    operations: { 0: 'inq_if_ids', 1: 'inq_stats', 2: 'is_server_listening', 3: 'stop_server_listening' },
  },
  [objectExporter.uuid]: {
    name: 'IObjectExporter',
    operations: {
      0: 'ResolveOxid',
      1: 'SimplePing',
      2: 'ComplexPing',
      3: 'ServerAlive',
      4: 'ResolveOxid2',
      5: 'ServerAlive2',
    },
  },
  [remoteActivator.uuid]: {
    name: 'IRemoteSCMActivator',
    operations: { 3: 'RemoteGetClassObject', 4: 'RemoteCreateInstance' },
  },
  [activation]: { name: 'IActivation', operations: { 0: 'RemoteActivation' } },
  [iids.remUnknown]: { name: 'IRemUnknown', operations: remUnknown },
  [iids.remUnknown2]: { name: 'IRemUnknown2', operations: { ...remUnknown, 6: 'RemQueryInterface2' } },
  [opcIids.server]: {
    name: 'IOPCServer',
    operations: {
      3: 'AddGroup',
      4: 'GetErrorString',
      5: 'GetGroupByName',
      6: 'GetStatus',
      7: 'RemoveGroup',
      8: 'CreateGroupEnumerator',
    },
  },
  [opcIids.browse2]: {
    name: 'IOPCBrowseServerAddressSpace',
    operations: {
      3: 'QueryOrganization',
      4: 'ChangeBrowsePosition',
      5: 'BrowseOPCItemIDs',
      6: 'GetItemID',
      7: 'BrowseAccessPaths',
    },
  },
  [opcIids.groupState]: {
    name: 'IOPCGroupStateMgt',
    operations: { 3: 'GetState', 4: 'SetState', 5: 'SetName', 6: 'CloneGroup' },
  },
  [opcIids.syncIo]: { name: 'IOPCSyncIO', operations: { 3: 'Read', 4: 'Write' } },
  [opcIids.itemManagement]: {
    name: 'IOPCItemMgt',
    operations: {
      3: 'AddItems',
      4: 'ValidateItems',
      5: 'RemoveItems',
      6: 'SetActiveState',
      7: 'SetClientHandles',
      8: 'SetDatatypes',
      9: 'CreateEnumerator',
    },
  },
  [opcIids.dataCallback]: {
    name: 'IOPCDataCallback',
    operations: { 3: 'OnDataChange', 4: 'OnReadComplete', 5: 'OnWriteComplete', 6: 'OnCancelComplete' },
  },
  [opcIids.asyncIo2]: {
    name: 'IOPCAsyncIO2',
    operations: { 3: 'Read', 4: 'Write', 5: 'Refresh2', 6: 'Cancel2', 7: 'SetEnable', 8: 'GetEnable' },
  },
  [opcIids.itemProperties]: {
    name: 'IOPCItemProperties',
    operations: { 3: 'QueryAvailableProperties', 4: 'GetItemProperties', 5: 'LookupItemIDs' },
  },
  [opcIids.itemIo]: { name: 'IOPCItemIO', operations: { 3: 'Read', 4: 'WriteVQT' } },
  [opcIids.common]: {
    name: 'IOPCCommon',
    operations: {
      3: 'SetLocaleID',
      4: 'GetLocaleID',
      5: 'QueryAvailableLocaleIDs',
      6: 'GetErrorString',
      7: 'SetClientName',
    },
  },
  [opcIids.shutdown]: { name: 'IOPCShutdown', operations: { 3: 'ShutdownRequest' } },
  [opcIids.serverList]: { name: 'IOPCServerList', operations: serverList },
  [opcIids.serverList2]: { name: 'IOPCServerList2', operations: serverList },
  [opcIids.enumString]: { name: 'IEnumString', operations: { 3: 'Next', 4: 'Skip', 5: 'Reset', 6: 'Clone' } },
  [opcIids.connectionPoints]: {
    name: 'IConnectionPointContainer',
    operations: { 3: 'EnumConnectionPoints', 4: 'FindConnectionPoint' },
  },
  [opcIids.connectionPoint]: {
    name: 'IConnectionPoint',
    operations: { 3: 'GetConnectionInterface', 4: 'GetConnectionPointContainer', 5: 'Advise', 6: 'Unadvise' },
  },
};

/** The name of an interface; one that is not known goes by its number. */
export const interfaceNamed = (uuid: string): string => names[uuid]?.name ?? uuid;

export function operationNamed(uuid: string, operation: number): string {
  const named = names[uuid]?.operations[operation] ?? `operation ${operation}`;
  return `${interfaceNamed(uuid)}.${named}`;
}
