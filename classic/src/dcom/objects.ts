import type { Guid } from '../octets/guid.js';
import { RpcFault, faults } from '../rpc/problems.js';
import type { RpcCall } from '../rpc/server.js';
import { ComFailure } from './interfaces.js';
import { readCall, writeAnswer } from './orpc.js';
import type { Method } from './orpc.js';

interface Operation {
  readonly operation: number;
  run(call: RpcCall): Promise<Uint8Array>;
}

/** How a method is carried out. One that throws {@link ComFailure} answers by its code, and nothing else. */
export function carryOut<In, Out>(
  method: Method<In, Out>,
  work: (args: In, call: RpcCall) => Out | Promise<Out>,
  hresultOf: (out: Out) => number = () => 0,
): Operation {
  return {
    operation: method.operation,
    run: async (call) => {
      const args = readCall(method, call.stub, call.isLittleEndian);
      try {
        const out = await work(args, call);
        return writeAnswer(method, out, hresultOf(out));
      } catch (error) {
        if (error instanceof ComFailure) return writeAnswer(method, method.out.none, error.hresult);
        throw error;
      }
    },
  };
}

/** An interface as an object has it: its operations by their numbers. */
export interface ComInterface {
  readonly iid: Guid;
  call(call: RpcCall): Promise<Uint8Array>;
}

export function comInterface(iid: Guid, ...operations: readonly Operation[]): ComInterface {
  const byNumber = new Map(operations.map((one) => [one.operation, one]));
  return {
    iid,
    call: (call) => {
      const found = byNumber.get(call.operation);
      if (!found) return Promise.reject(new RpcFault(faults.operationUnknown));
      return found.run(call);
    },
  };
}

/** An object that others may hold: its interfaces, and what happens when nobody holds it any more. */
export interface ComObject {
  readonly interfaces: readonly ComInterface[];
  letGo?(): void;
}
