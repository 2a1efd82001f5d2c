import { createSocket } from 'node:dgram';
import type { Socket } from 'node:dgram';

export interface ServiceRecord {
  /** As `_imaps._tcp`. */
  service: string;
  port: number;
}

const A = 1;
const SRV = 33;
const IN = 1;

/**
 * A name server for the provider's domains: service records (RFC 6186) that lead to its host, and the host's address. Every
 * other name does not exist. Speaks RFC 1035 over UDP on loopback.
 */
export function startNameServer(
  parts: { host: string; domains: () => ReadonlySet<string>; records: () => readonly ServiceRecord[] },
  port: number,
): Promise<Socket> {
  const socket = createSocket('udp4');
  socket.on('message', (query, from) => {
    const answer = answerTo(query, parts);
    if (answer) socket.send(answer, from.port, from.address);
  });
  return new Promise((resolve, reject) => {
    socket.once('error', reject);
    socket.bind(port, '127.0.0.1', () => resolve(socket));
  });
}

function answerTo(query: Buffer, parts: Parameters<typeof startNameServer>[0]): Buffer | null {
  if (query.length < 17) return null;
  const labels: string[] = [];
  let at = 12;
  for (let length = query[at] ?? 0; length > 0; length = query[at] ?? 0) {
    labels.push(query.toString('latin1', at + 1, at + 1 + length).toLowerCase());
    at += length + 1;
    if (at >= query.length) return null;
  }
  const type = query.readUInt16BE(at + 1);
  const question = query.subarray(12, at + 5);
  const name = labels.join('.');
  const answers: Buffer[] = [];
  const service = /^(_[a-z]+\._tcp)\.(.+)$/.exec(name);
  const hosted = service !== null && parts.domains().has(service[2] ?? '');
  if (type === SRV && hosted) {
    for (const item of parts.records().filter((record) => record.service === service[1])) {
      const data = Buffer.alloc(6);
      data.writeUInt16BE(item.port, 4);
      answers.push(record(SRV, Buffer.concat([data, encodeName(parts.host)])));
    }
  } else if (type === A && name === parts.host) answers.push(record(A, Buffer.from([127, 0, 0, 1])));
  const known = hosted || name === parts.host || parts.domains().has(name);
  const header = Buffer.alloc(12);
  query.copy(header, 0, 0, 2);
  header.writeUInt16BE(0x8580 | (known ? 0 : 3), 2);
  header.writeUInt16BE(1, 4);
  header.writeUInt16BE(answers.length, 6);
  return Buffer.concat([header, question, ...answers]);
}

/** A resource record for the name of the question. */
function record(type: number, data: Buffer): Buffer {
  const head = Buffer.alloc(12);
  head.writeUInt16BE(0xc00c, 0);
  head.writeUInt16BE(type, 2);
  head.writeUInt16BE(IN, 4);
  head.writeUInt32BE(60, 6);
  head.writeUInt16BE(data.length, 10);
  return Buffer.concat([head, data]);
}

function encodeName(name: string): Buffer {
  return Buffer.concat([
    ...name.split('.').map((label) => Buffer.concat([Buffer.from([label.length]), Buffer.from(label, 'latin1')])),
    Buffer.from([0]),
  ]);
}
