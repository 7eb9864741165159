import { MessageSecurityMode, OPCUAClient, SecurityPolicy, UserTokenType } from 'node-opcua-client';
import type { ClientSession } from 'node-opcua-client';
import { InMemoryCertificateKeyPairProvider } from 'node-opcua-common';
import { makePrivateKeyFromPem } from 'node-opcua-crypto/web';
import { derIn } from './certificates.js';
import type { KeyAndCertificate } from './certificates.js';
import type { Stoppable } from './other-ports.js';

const everyMs = 20_000;
const staysMs = 6000;
/** Every so many visits somebody has a wrong password. */
const wrongEvery = 3;

export interface Visitor extends KeyAndCertificate {
  readonly applicationUri: string;
  readonly endpointUrl: string;
  readonly userName: string;
  readonly password: string;
}

/** A client of the plant that comes to its server now and then, as clients do: so that a server has something to report. */
export function startVisitor(visitor: Visitor): Stoppable {
  let visits = 0;
  let visiting: Promise<void> = Promise.resolve();
  const timer = setInterval(() => {
    visits += 1;
    const password = visits % wrongEvery === 0 ? `${visitor.password}x` : visitor.password;
    visiting = visiting.then(() => visit({ ...visitor, password }, stay)).catch(() => undefined);
  }, everyMs);
  return {
    stop: async () => {
      clearInterval(timer);
      await visiting;
    },
  };
}

const stay = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, staysMs));

/** A client signs in at its server, does something there, and leaves. */
export async function visit(visitor: Visitor, act: (session: ClientSession) => Promise<unknown>): Promise<void> {
  const client = OPCUAClient.create({
    applicationUri: visitor.applicationUri,
    endpointMustExist: false,
    keepSessionAlive: false,
    securityMode: MessageSecurityMode.SignAndEncrypt,
    securityPolicy: SecurityPolicy.Basic256Sha256,
    connectionStrategy: { maxRetry: 0, initialDelay: 100, maxDelay: 100 },
    certificateKeyPairProvider: new InMemoryCertificateKeyPairProvider(
      [Buffer.from(derIn(visitor.certificatePem))],
      makePrivateKeyFromPem(visitor.privateKeyPem),
    ),
  });
  try {
    await client.connect(visitor.endpointUrl);
    const { userName, password } = visitor;
    const session = await client.createSession({ type: UserTokenType.UserName, userName, password });
    await act(session);
    await session.close(true);
  } finally {
    await client.disconnect().catch(() => undefined);
  }
}
