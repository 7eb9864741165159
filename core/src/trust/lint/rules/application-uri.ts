import type { LintRule } from '../rule.js';

export const applicationUriRule: LintRule = {
  id: 'application-uri',
  clause: 'Part 6 §6.2.2, subjectAltName',
  severity: 'error',
  test({ extensions }) {
    const uris = (extensions.alternativeNames ?? []).flatMap((name) => (name.kind === 'uri' ? [name.value] : []));
    const [uri] = uris;
    if (uri === undefined) return 'It does not name the application URI.';
    if (uris.length > 1) return `It names ${uris.length} URIs; which of them is the application’s?`;
    if (/\s/.test(uri)) return `Its application URI “${uri}” holds a blank.`;
    return /^[a-z][a-z0-9+.-]*:.+/i.test(uri) ? null : `“${uri}” is no URI.`;
  },
  remedy: 'Put exactly one URI among the alternative names, the one that the application gives as its applicationUri.',
};
