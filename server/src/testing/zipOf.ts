import { crc32, deflateRawSync } from 'node:zlib';

/** A small .zip of these files (APPNOTE 6.3, deflate), for tests. */
export function zipOf(files: Record<string, string | Uint8Array>): Buffer {
  const locals: Buffer[] = [];
  const central: Buffer[] = [];
  let offset = 0;
  for (const [name, content] of Object.entries(files)) {
    const data = Buffer.from(content as string);
    const packed = deflateRawSync(data);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(20, 0);
    common.writeUInt16LE(8, 4);
    common.writeUInt32LE(crc(data), 10);
    common.writeUInt32LE(packed.length, 14);
    common.writeUInt32LE(data.length, 18);
    common.writeUInt16LE(Buffer.byteLength(name), 22);
    const local = Buffer.concat([Buffer.from('PK\u0003\u0004'), common, Buffer.from(name), packed]);
    const entry = Buffer.alloc(46);
    entry.write('PK\u0001\u0002', 0, 'latin1');
    entry.writeUInt16LE(20, 4);
    common.copy(entry, 6);
    entry.writeUInt32LE(offset, 42);
    locals.push(local);
    central.push(Buffer.concat([entry, Buffer.from(name)]));
    offset += local.length;
  }
  const directory = Buffer.concat(central);
  const end = Buffer.alloc(22);
  end.write('PK\u0005\u0006', 0, 'latin1');
  end.writeUInt16LE(locals.length, 8);
  end.writeUInt16LE(locals.length, 10);
  end.writeUInt32LE(directory.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...locals, directory, end]);
}

function crc(data: Buffer): number {
  if (typeof crc32 === 'function') return crc32(data);
  let value = ~0;
  for (const byte of data) {
    value ^= byte;
    for (let bit = 0; bit < 8; bit += 1) value = (value >>> 1) ^ (0xedb88320 & -(value & 1));
  }
  return ~value >>> 0;
}
