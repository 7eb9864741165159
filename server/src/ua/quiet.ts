import { setDebugLogger, setErrorLogger, setWarningLogger } from 'node-opcua-debug';

/** The UA library writes to the console on its own; what matters of it is told by facts. */
export function silenceLibrary(): void {
  const nothing = (): void => undefined;
  setDebugLogger(nothing);
  setErrorLogger(nothing);
  setWarningLogger(nothing);
}
