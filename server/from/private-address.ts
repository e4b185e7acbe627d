import { BlockList, isIP } from 'node:net';

/*
 * Addresses that are not the open network's (RFC 6890 and its registries): nobody elsewhere could reach them, so a source that
 * was told of by others must not.
 */
const closed = new BlockList();
for (const [address, prefix] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.0.2.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['198.51.100.0', 24],
  ['203.0.113.0', 24],
  ['224.0.0.0', 4],
  ['240.0.0.0', 4],
] as const)
  closed.addSubnet(address, prefix, 'ipv4');
// Of the other family only global unicast is open, and not what carries an address of the first within it.
const open = new BlockList();
open.addSubnet('2000::', 3, 'ipv6');
for (const [address, prefix] of [
  ['2001::', 23],
  ['2001:db8::', 32],
  ['2002::', 16],
] as const)
  closed.addSubnet(address, prefix, 'ipv6');

/** Whether an address lies in a private network, on this machine, or in no network at all. */
export function isPrivate(address: string): boolean {
  if (isIP(address) === 4) return closed.check(address, 'ipv4');
  if (isIP(address) !== 6) return true;
  return !open.check(address, 'ipv6') || closed.check(address, 'ipv6');
}
