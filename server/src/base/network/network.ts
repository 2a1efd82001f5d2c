import { Resolver, lookup } from 'node:dns/promises';
import { BlockList, isIP } from 'node:net';
import { MailFailure } from './mailFailure';

/** Where a server is found, and how the connection is secured. */
export interface Endpoint {
  host: string;
  port: number;
  security: 'tls' | 'starttls';
}

export interface FoundServers {
  imap: Endpoint;
  smtp: Endpoint;
}

export interface NetworkOptions {
  /** Loopback and private addresses are connected to as well. */
  privateHosts: boolean;
  /** Name servers to ask first, as `127.0.0.1:5300`; then the system's. */
  nameServers?: readonly string[];
}

const MAIL_PORTS: ReadonlySet<number> = new Set([143, 993, 25, 465, 587, 2525]);

const closed = new BlockList();
for (const [network, bits] of [
  ['0.0.0.0', 8],
  ['10.0.0.0', 8],
  ['100.64.0.0', 10],
  ['127.0.0.0', 8],
  ['169.254.0.0', 16],
  ['172.16.0.0', 12],
  ['192.0.0.0', 24],
  ['192.168.0.0', 16],
  ['198.18.0.0', 15],
  ['224.0.0.0', 4],
  ['240.0.0.0', 4],
] as const)
  closed.addSubnet(network, bits, 'ipv4');
for (const [network, bits] of [
  // The unspecified and the loopback address, and IPv4 addresses in the outdated form ::127.0.0.1.
  ['::', 96],
  ['fc00::', 7],
  ['fe80::', 10],
  ['ff00::', 8],
  ['64:ff9b::', 96],
  ['64:ff9b:1::', 48],
  ['fec0::', 10],
  // Teredo: IPv4 addresses in other packets.
  ['2001::', 32],
  ['2002::', 16],
] as const)
  closed.addSubnet(network, bits, 'ipv6');

/** True for loopback, private, link-local and other addresses that are not of the open internet. */
export function isPrivateAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  if (mapped) return isPrivateAddress(mapped);
  const family = isIP(address);
  if (family === 0) return true;
  return closed.check(address, family === 6 ? 'ipv6' : 'ipv4') || /^::ffff:/i.test(address);
}

/**
 * Names and addresses of mail servers. A name is resolved once, its address is checked and that very address is connected to, so
 * that no answer of a name server can lead into a private network.
 */
export class Network {
  private readonly resolver: Resolver | null = null;

  constructor(private readonly options: NetworkOptions) {
    if (!options.nameServers?.length) return;
    this.resolver = new Resolver({ timeout: 2000, tries: 2 });
    this.resolver.setServers([...options.nameServers]);
  }

  /** Whether loopback and private addresses are connected to. */
  get allowsPrivate(): boolean {
    return this.options.privateHosts;
  }

  /** The address that a name leads to, on the open internet where nothing else is allowed. @throws {MailFailure} name-unknown or host-refused */
  async publicAddressOf(host: string): Promise<string> {
    const address = isIP(host) > 0 ? host : await this.resolved(host);
    if (!this.options.privateHosts && isPrivateAddress(address)) throw new MailFailure('host-refused');
    return address;
  }

  /** @throws {MailFailure} name-unknown or host-refused */
  async addressOf({ host, port }: Pick<Endpoint, 'host' | 'port'>): Promise<string> {
    const address = await this.publicAddressOf(host);
    if (!this.options.privateHosts && !MAIL_PORTS.has(port)) throw new MailFailure('host-refused', `Port ${port} is not a port for mail.`);
    return address;
  }

  /** The servers of a domain by its service records (RFC 6186), or null. */
  async findServers(domain: string): Promise<FoundServers | null> {
    const imap = (await this.service(domain, '_imaps._tcp', 'tls')) ?? (await this.service(domain, '_imap._tcp', 'starttls'));
    const smtp = (await this.service(domain, '_submissions._tcp', 'tls')) ?? (await this.service(domain, '_submission._tcp', 'starttls'));
    return imap && smtp ? { imap, smtp } : null;
  }

  private async resolved(host: string): Promise<string> {
    const own = await this.resolver?.resolve4(host).catch(() => []);
    if (own?.[0]) return own[0];
    try {
      // Many mail servers announce an IPv6 address that does not answer; the other one does.
      return (await lookup(host, { order: 'ipv4first' })).address;
    } catch (error) {
      throw new MailFailure('name-unknown', error instanceof Error ? error.message : '');
    }
  }

  private async service(domain: string, name: string, security: Endpoint['security']): Promise<Endpoint | null> {
    const resolver = this.resolver ?? new Resolver({ timeout: 2000, tries: 1 });
    const records = await resolver.resolveSrv(`${name}.${domain}`).catch(() => []);
    const [best] = records
      .filter((record) => record.name !== '' && record.name !== '.')
      .sort((first, second) => first.priority - second.priority || second.weight - first.weight);
    return best ? { host: best.name.toLowerCase(), port: best.port, security } : null;
  }
}
