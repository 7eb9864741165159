import type { LinkKindId } from './kinds.js';
import { judgeUrl, uaScheme, urlOf } from './endpoint-url.js';
import type { EndpointUrlParts, JudgedEndpointUrl, UrlScheme } from './endpoint-url.js';
import type { Link } from '../plant/plant.js';

/** The port of the mapper, by registration (MS-RPCE 2.1.1.1). */
export const registeredMapperPort = 135;
const schemes: Readonly<Record<LinkKindId, UrlScheme>> = {
  ua: uaScheme,
  classic: { name: 'classic', port: registeredMapperPort },
};

/** Judges the URL of a link of some kind. @param usualPort the port that is meant where none is given */
export function judgeLinkUrl(kind: LinkKindId, text: string, usualPort?: number): JudgedEndpointUrl {
  const judged = judgeUrl(text, usualPort ?? schemes[kind].port, schemes[kind]);
  if (kind !== 'classic' || !judged.parts || programOf(judged.parts) !== '') return judged;
  const flaws = [...judged.flaws, { kind: 'program' as const, says: 'It names no program behind the host.' }];
  return { ...judged, cleaned: null, parts: null, flaws };
}

/** The parts of a link’s URL; null: it is none. */
export const linkUrlParts = ({ kind, endpointUrl }: Pick<Link, 'kind' | 'endpointUrl'>): EndpointUrlParts | null =>
  judgeLinkUrl(kind, endpointUrl).parts;
export const linkUrlOf = (kind: LinkKindId, parts: EndpointUrlParts): string => urlOf(parts, schemes[kind]);

/** The program of a classic URL: a name, or a CLSID in braces or without. */
export const programOf = ({ path }: Pick<EndpointUrlParts, 'path'>): string => path.replace(/^\/+|\/+$/g, '');
