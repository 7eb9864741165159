import { carryOut, comInterface } from '../dcom/objects.js';
import type { ComObject } from '../dcom/objects.js';
import type { Caller } from '../rpc/security.js';
import { dataCallback, opcIids, shutdown } from './interfaces.js';
import type { DataChange } from './interfaces.js';

/** An object of ours that a server tells changes to. */
export function dataSink(changed: (change: DataChange, caller: Caller) => void): ComObject {
  const nothing = () => ({});
  return {
    interfaces: [
      comInterface(
        opcIids.dataCallback,
        carryOut(dataCallback.onDataChange, (change, { caller }) => {
          changed(change, caller);
          return {};
        }),
        carryOut(dataCallback.onReadComplete, nothing),
        carryOut(dataCallback.onWriteComplete, nothing),
        carryOut(dataCallback.onCancelComplete, nothing),
      ),
    ],
  };
}

/** An object of ours that a server tells that it goes away (OPC Common 3.3). */
export function shutdownSink(asked: (reason: string) => void): ComObject {
  return {
    interfaces: [
      comInterface(
        opcIids.shutdown,
        carryOut(shutdown.shutdownRequest, ({ reason }) => {
          asked(reason);
          return {};
        }),
      ),
    ],
  };
}
