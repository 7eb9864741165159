import { registeredPort } from '../../endpoint-url.js';
import type { LinkKindId } from '../../kinds.js';
import { linkUrlOf } from '../../link-url.js';
import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The endpoint URL, as it was typed or pasted, is not one. */
export const urlMalformed = cause({
  id: 'url-malformed',
  steps: ['name'],
  clause: 'Part 6 §7.1',
  title: 'The endpoint URL is malformed',
  severity: 'fails',
  explains: ['name-unknown'],
  test({ facts }) {
    const url = facts.latest('endpoint-url');
    return url && url.flaws.length > 0 ? { because: [url], url } : null;
  },
  meaning: ({ url }) =>
    `The endpoint URL “${url.given}” can’t be used as it is. ${url.flaws.map((flaw) => flaw.says).join(' ')}`,
  remedies({ url }, { subject: { link, server, serverMachine } }) {
    const host = serverMachine.hostNames[0] ?? serverMachine.addresses[0] ?? '';
    const suggestion = url.cleaned ?? usualUrl(link.kind, host, server.ports[0]);
    if (!suggestion) return [byHand({ title: 'Type the endpoint URL again', target: link.name })];
    return [
      {
        title: 'Correct the endpoint URL',
        target: link.name,
        before: url.given,
        after: suggestion,
        change: { kind: 'set-endpoint-url', linkId: link.id, before: url.given, after: suggestion },
        restart: false,
        undo: 'Set the old URL again.',
      },
    ];
  },
});

/** What a server’s URL usually is; null where it can’t be told, as of a classic one, which names its program. */
const usualUrl = (kind: LinkKindId, host: string, port: number = registeredPort): string | null =>
  kind === 'ua' && host !== '' ? linkUrlOf(kind, { host, port, path: '' }) : null;
