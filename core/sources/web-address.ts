/** An address as the WHATWG's URL standard reads one. */
export interface WebAddress {
  readonly href: string;
  readonly protocol: string;
  readonly username: string;
  readonly password: string;
  readonly host: string;
  readonly hostname: string;
  readonly pathname: string;
  readonly search: string;
  hash: string;
}

interface WebAddressType {
  new (text: string, base?: string): WebAddress;
  canParse(text: string, base?: string): boolean;
}

/** Every platform has it; core names no platform's library, so it says what it takes of it. */
export const { URL: WebAddress } = globalThis as unknown as { readonly URL: WebAddressType };
