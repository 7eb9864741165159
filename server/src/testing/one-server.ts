import { fork } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** What the server does differently from then on, or wrong; what is not named it does as the standard says. */
export interface Quirks {
  readonly oneByOne?: boolean;
  readonly noise?: boolean;
  readonly hangsUpOnUpdate?: boolean;
  readonly staysAsItWas?: boolean;
  readonly strayCrl?: boolean;
  readonly vanishes?: boolean;
  readonly neverPublishes?: boolean;
}

export interface OneServer {
  readonly certificatePem: string;
  /** Every user name and password that somebody sent it, right or wrong. */
  readonly heard: readonly { readonly userName: string; readonly password: string }[];
  behave(quirks: Quirks): Promise<void>;
  stop(): Promise<void>;
}

/** Starts a server of the made-up plant at another address, with keys and lists of its own, which misbehaves when told to. */
export async function startOneServer(wish: {
  readonly id: string;
  readonly address: string;
  /** Further hosts that its certificate names. */
  readonly hosts?: readonly string[];
  /** Whether it offers no security at all, but for the password itself. */
  readonly unsecured?: boolean;
  /** So many generated devices of ten values beside its items. */
  readonly devices?: number;
  /** It takes no more nodes in one request. */
  readonly operationLimit?: number;
  readonly trusted: readonly string[];
  readonly passwords: Readonly<Record<string, string>>;
}): Promise<OneServer> {
  const folder = mkdtempSync(join(tmpdir(), 'hinge-one-'));
  const child = fork(join(process.cwd(), 'stand-ins/dist/one-server.js'), [folder], {
    stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
  });
  child.send(wish);
  const gone = once(child, 'exit');
  const ended = gone.then(() => Promise.reject(new Error('the server ended before it was ready')));
  ended.catch(() => undefined);
  const [ready] = (await Promise.race([once(child, 'message'), ended])) as [{ certificatePem: string }];
  const heard: { userName: string; password: string }[] = [];
  child.on('message', (message: { heard?: { userName: string; password: string } }) => {
    if (message.heard) heard.push(message.heard);
  });
  return {
    heard,
    certificatePem: ready.certificatePem,
    async behave(quirks) {
      const behaves = new Promise<void>((resolve) => {
        const hear = (message: { behaves?: true }): void => {
          if (!message.behaves) return;
          child.off('message', hear);
          resolve();
        };
        child.on('message', hear);
      });
      child.send({
        oneByOne: false,
        noise: false,
        hangsUpOnUpdate: false,
        staysAsItWas: false,
        strayCrl: false,
        ...quirks,
      });
      await behaves;
    },
    async stop() {
      if (child.connected) child.disconnect();
      await gone;
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
