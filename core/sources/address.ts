import { Failure } from '#core/failure';
import { WebAddress } from './web-address';

/*
 * An address elsewhere, as the page asks its own server for it: the page may connect to nobody else. The form keeps what a
 * source says of its parts apart from who may be asked: `/from/<trust>/<scheme>/<host>/<path>`.
 */

/** The route of the server that passes such requests on. */
export const FROM = 'from';

/**
 * Whether a person typed an address here. Only then may it lie in a private network, or on this machine: what came with a
 * game or an index from somewhere must not reach what others cannot.
 */
export type Trust = 'typed' | 'told';

const MAX_ADDRESS = 2048;

/**
 * An address as a person types it, or a game names it.
 * @returns it without a fragment
 * @throws Failure `source/not-an-address` for what is no http or https address, or has a name and passphrase in it
 */
export function sourceAddress(text: string): WebAddress {
  const address = text.trim();
  const bad = (): Failure => new Failure('source/not-an-address', { found: address.slice(0, 200) });
  if (address.length > MAX_ADDRESS || !WebAddress.canParse(address)) throw bad();
  const url = new WebAddress(address);
  if ((url.protocol !== 'http:' && url.protocol !== 'https:') || url.hostname === '') throw bad();
  if (url.username !== '' || url.password !== '') throw bad();
  url.hash = '';
  return url;
}

/** What stands before the path of an address of a source. */
export const fromPrefix = ({ protocol, host }: WebAddress, trust: Trust): string =>
  `/${FROM}/${trust}/${protocol.slice(0, -1)}/${host}`;

/** Who is asked for what lies at an address of the page: a source elsewhere, or one that this server is. */
export const askedOf = (href: string): string => /^\/from(?:\/[^/?#]+){3}|^\/[^/?#]+\/[^/?#]+/.exec(href)?.[0] ?? href;

/** The address that a path of the server stands for; undefined where it stands for none. */
export function addressOfFrom(pathAndSearch: string): { url: WebAddress; trust: Trust } | undefined {
  const match = /^\/from\/(typed|told)\/(https?)\/([^/?#]+)(\/[^#]*)?$/.exec(pathAndSearch);
  if (!match) return undefined;
  const [, trust, scheme, host, rest = '/'] = match;
  const text = `${scheme}://${host}${rest}`;
  if (!WebAddress.canParse(text)) return undefined;
  const url = new WebAddress(text);
  // What the parser reads as something else than it was written as is not asked for.
  return url.host === host!.toLowerCase() && url.username === '' ? { url, trust: trust as Trust } : undefined;
}
