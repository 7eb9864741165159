import { createHmac } from 'node:crypto';
import { request as inTheClear } from 'node:http';
import { request as overTls } from 'node:https';
import { isIP } from 'node:net';
import type { LookupFunction } from 'node:net';
import { createTransport } from 'nodemailer';
import type { RecipientWay } from '@loyal-hinge/contract';

const sendMs = 20_000;

/** What is sent: text for people, and the same for programs. */
export interface Message {
  readonly subject: string;
  readonly text: string;
  readonly body: Readonly<Record<string, unknown>>;
}

/** How it goes there: the address that may be dialled, and the secret of this way. */
export interface Going {
  readonly address: string;
  readonly secret: string | null;
}

/** Where a way leads, and how it is protected: a secret that was given for TLS never goes there in the clear. */
export function placeOf(way: RecipientWay): { readonly host: string; readonly place: string } {
  if (way.kind === 'mail') return { host: way.host, place: `smtp-${way.security}://${way.host}:${way.port}` };
  const { hostname, origin } = new URL(way.url);
  return { host: hostname.replace(/^\[|\]$/g, ''), place: origin };
}

/** Sends a message. @throws an error that says why it was not taken */
export const send = (way: RecipientWay, message: Message, going: Going): Promise<void> =>
  way.kind === 'mail' ? sendMail(way, message, going) : post(way, message, going);

type Mail = Extract<RecipientWay, { readonly kind: 'mail' }>;

async function sendMail(
  { host, port, security, from, to, userName }: Mail,
  { subject, text }: Message,
  { address, secret }: Going,
): Promise<void> {
  const transport = createTransport({
    host: address,
    port,
    secure: security === 'tls',
    requireTLS: security === 'starttls',
    ignoreTLS: security === 'none',
    // By an address no server is named (RFC 6066 §3).
    tls: isIP(host) === 0 ? { servername: host } : {},
    connectionTimeout: sendMs,
    greetingTimeout: sendMs,
    socketTimeout: sendMs,
    disableFileAccess: true,
    disableUrlAccess: true,
    ...(userName === null ? {} : { auth: { user: userName, pass: secret ?? '' } }),
  });
  try {
    await transport.sendMail({ from, to, subject, text });
  } finally {
    transport.close();
  }
}

type Webhook = Extract<RecipientWay, { readonly kind: 'webhook' }>;

/**
 * Posts a message as JSON. `Hinge-Signature` is HMAC-SHA-256 (RFC 2104), in hexadecimal, over the time in `Hinge-Time`, a
 * point, and the body: whoever gets it can tell that it is from here, and not an old one.
 */
function post({ url }: Webhook, { subject, text, body }: Message, { address, secret }: Going): Promise<void> {
  const content = JSON.stringify({ subject, text, ...body });
  const at = new Date().toISOString();
  const signature = createHmac('sha256', secret ?? '')
    .update(`${at}.${content}`)
    .digest('hex');
  const lookup: LookupFunction = (_host, options, give) => {
    const family = address.includes(':') ? 6 : 4;
    if (options.all) give(null, [{ address, family }]);
    else give(null, address, family);
  };
  return new Promise((resolve, reject) => {
    const sent = (url.startsWith('https:') ? overTls : inTheClear)(url, {
      method: 'POST',
      lookup,
      agent: false,
      signal: AbortSignal.timeout(sendMs),
      headers: {
        'content-type': 'application/json',
        'content-length': Buffer.byteLength(content),
        'hinge-time': at,
        'hinge-signature': signature,
      },
    });
    sent.once('error', reject);
    sent.once('response', ({ statusCode = 0 }) => {
      sent.destroy();
      if (statusCode >= 200 && statusCode < 300) resolve();
      else reject(new Error(`it answered with status ${statusCode}`));
    });
    sent.end(content);
  });
}
