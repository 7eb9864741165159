import { setDebugLogger, setErrorLogger, setWarningLogger } from 'node-opcua-debug';

/** The UA library writes to the console on its own; what matters of it the gateway tells itself. */
export function silenceLibrary(): void {
  const nothing = (): void => undefined;
  for (const silence of [setDebugLogger, setErrorLogger, setWarningLogger]) silence(nothing);
}
