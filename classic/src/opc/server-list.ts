import type { ObjectExporter } from '../dcom/exporter.js';
import { ComFailure, hresults } from '../dcom/interfaces.js';
import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComObject } from '../dcom/objects.js';
import type { Guid } from '../octets/guid.js';
import { opcIids, serverList, serverList2 } from './interfaces.js';
import { guidEnumerator } from './server-parts.js';

/** A server in a machine’s list, by its class. */
export interface ListEntry {
  readonly clsid: Guid;
  readonly progId: string;
  readonly name: string;
  readonly categories: readonly Guid[];
}

/** A machine’s list of its OPC servers (OPC Common 6). */
export function serverListObject(exporter: ObjectExporter, entries: readonly ListEntry[]): ComObject {
  const named = (progId: string) => entries.find((entry) => entry.progId.toLowerCase() === progId.toLowerCase());
  const listed = (wanted: readonly Guid[]) =>
    entries
      .filter(({ categories }) => wanted.some((category) => categories.includes(category)))
      .map(({ clsid }) => clsid);
  const detailsOf = (clsid: Guid) => {
    const entry = entries.find((one) => one.clsid === clsid);
    if (!entry) throw new ComFailure(hresults.classUnknown);
    return { progId: entry.progId, userType: entry.name, versionIndependentProgId: entry.progId };
  };
  const classOf = ({ progId }: { readonly progId: string }) => {
    const entry = named(progId);
    if (!entry) throw new ComFailure(hresults.programUnknown);
    return { clsid: entry.clsid };
  };
  const enumerated =
    (iid: Guid) =>
    ({ implemented }: { readonly implemented: readonly Guid[] }) => ({
      enumerator: exporter.marshal(guidEnumerator(listed(implemented), iid), iid),
    });
  return {
    interfaces: [
      comInterface(
        opcIids.serverList,
        carryOut(serverList.classesOfCategories, enumerated(opcIids.plainEnumGuid)),
        carryOut(serverList.classDetails, ({ clsid }) => detailsOf(clsid)),
        carryOut(serverList.clsidFromProgId, classOf),
      ),
      comInterface(
        opcIids.serverList2,
        carryOut(serverList2.classesOfCategories, enumerated(opcIids.enumGuid)),
        carryOut(serverList2.classDetails, ({ clsid }) => detailsOf(clsid)),
        carryOut(serverList2.clsidFromProgId, classOf),
      ),
    ],
  };
}
