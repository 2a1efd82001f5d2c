import { joined } from './joined';

/** One message out of an mbox. */
export interface MboxMessage {
  raw: Uint8Array;
  /** The separator line without `From `, e.g. `ida@harbour.example Tue May  4 10:00:00 2026`; empty for a bare message. */
  separator: string;
  /** Position in the file, from 1. */
  position: number;
  /** Bytes left away because the message was longer than the limit. */
  cutBytes: number;
}

const LF = 0x0a;
const CR = 0x0d;
const SEPARATOR = [0x46, 0x72, 0x6f, 0x6d, 0x20]; // "From "
const GT = 0x3e;
const DAY_TIME = /(?:\d{1,2}:\d{2})/;
const MAX_SEPARATOR = 1000;

/**
 * Splits an mbox into messages as its bytes arrive, with bounded memory.
 *
 * Reads mboxo, mboxrd, mboxcl and mboxcl2, with LF or CRLF. A separator is a line `From …` with a time in it, at the start or
 * after an empty line. `>From ` lines lose one `>` (mboxrd undoes exactly what was done; for mboxo it is the best guess). A
 * `Content-Length` is followed when it leads to another separator or the end, so that unquoted `From ` lines in the body do
 * not split it, and is ignored otherwise. Bytes without any separator are one message.
 *
 * @example
 * const splitter = new MboxSplitter();
 * for await (const chunk of file) for (const message of splitter.push(chunk)) use(message);
 * for (const message of splitter.end()) use(message);
 */
export class MboxSplitter {
  private pending: Uint8Array = new Uint8Array(0);
  private readonly message: GrowingBytes;
  private separator: string | null = null;
  private position = 0;
  private blankBefore = true;
  private inHeader = true;
  private declaredLength: number | null = null;
  private jumpLeft = 0;
  /** The body that a Content-Length claims, held back until it is known where the claim leads. */
  private jumped: Uint8Array[] = [];

  constructor(private readonly maxMessageBytes = 64 * 1024 * 1024) {
    this.message = new GrowingBytes(maxMessageBytes);
  }

  push(chunk: Uint8Array): MboxMessage[] {
    const found: MboxMessage[] = [];
    this.pending = this.consume(concatenated([this.pending, chunk]), found);
    // A body of one endless line must not pile up either.
    if (this.pending.length > this.maxMessageBytes) {
      this.message.append(this.pending);
      this.pending = new Uint8Array(0);
    }
    return found;
  }

  end(): MboxMessage[] {
    const found: MboxMessage[] = [];
    if (this.jumpLeft > 0) this.pending = this.consume(concatenated([this.forgetJump(), this.pending]), found);
    if (this.pending.length > 0) {
      const rest = this.consume(concatenated([this.pending, new Uint8Array([LF])]), found);
      if (rest.length > 0) this.takeLine(rest, found);
    }
    this.settleJump();
    this.pending = new Uint8Array(0);
    this.emit(found);
    return found;
  }

  /** Takes whole lines; returns the bytes behind the last line end. */
  private consume(bytes: Uint8Array, found: MboxMessage[]): Uint8Array {
    let data = bytes;
    let at = 0;
    for (;;) {
      if (this.jumpLeft > 0) {
        const taken = Math.min(this.jumpLeft, data.length - at);
        if (taken > 0) this.jumped.push(data.slice(at, at + taken));
        at += taken;
        this.jumpLeft -= taken;
        if (this.jumpLeft > 0) break;
      }
      const end = data.indexOf(LF, at);
      if (end < 0) break;
      const line = data.subarray(at, end + 1);
      if (this.jumped.length > 0 && !isBlank(line) && !isSeparator(line)) {
        data = concatenated([this.forgetJump(), data.subarray(at)]);
        at = 0;
        continue;
      }
      this.takeLine(line, found);
      at = end + 1;
    }
    return data.slice(at);
  }

  private takeLine(line: Uint8Array, found: MboxMessage[]): void {
    const blank = isBlank(line);
    if (this.jumped.length > 0 && blank) {
      this.jumped.push(line.slice());
      return;
    }
    if (this.blankBefore && isSeparator(line)) {
      this.settleJump();
      this.emit(found);
      this.separator = textOf(line.subarray(5)).trim();
      this.blankBefore = false;
      this.inHeader = true;
      this.declaredLength = null;
      return;
    }
    if (!this.inHeader) {
      this.message.append(unquotedFrom(line));
      this.blankBefore = blank;
      return;
    }
    this.takeHeaderLine(line, blank);
  }

  private takeHeaderLine(line: Uint8Array, blank: boolean): void {
    this.message.append(line);
    if (blank) {
      this.inHeader = false;
      this.blankBefore = true;
      this.jumpLeft = this.declaredLength ?? 0;
      return;
    }
    this.blankBefore = false;
    const declared = line.length < 60 ? /^content-length:\s*(\d{1,10})\s*$/i.exec(textOf(line)) : null;
    if (declared && Number(declared[1]) <= this.maxMessageBytes) this.declaredLength = Number(declared[1]);
  }

  /** The declared length led to a separator or the end: the body stands as it is. */
  private settleJump(): void {
    for (const bytes of this.jumped) this.message.append(bytes);
    this.jumped = [];
  }

  /** The declared length led astray: its bytes are to be read line by line like any other body. */
  private forgetJump(): Uint8Array {
    const bytes = concatenated(this.jumped);
    this.jumped = [];
    this.jumpLeft = 0;
    this.declaredLength = null;
    this.blankBefore = true;
    return bytes;
  }

  private emit(found: MboxMessage[]): void {
    const { bytes, cut } = this.message.take();
    const raw = withoutFinalBlankLine(bytes, this.separator !== null);
    if (this.separator !== null || raw.some((byte) => byte > 0x20)) {
      this.position += 1;
      found.push({ raw, separator: this.separator ?? '', position: this.position, cutBytes: cut });
    }
    this.separator = null;
  }
}

/** Bytes put together piece by piece, up to a limit; what goes beyond is counted, not kept. */
class GrowingBytes {
  private bytes = new Uint8Array(16_384);
  private length = 0;
  private cut = 0;

  constructor(private readonly limit: number) {}

  append(piece: Uint8Array): void {
    const needed = this.length + piece.length;
    if (needed > this.limit) {
      this.cut += piece.length;
      return;
    }
    if (needed > this.bytes.length) {
      const larger = new Uint8Array(Math.min(this.limit, Math.max(needed, this.bytes.length * 2)));
      larger.set(this.bytes.subarray(0, this.length));
      this.bytes = larger;
    }
    this.bytes.set(piece, this.length);
    this.length = needed;
  }

  take(): { bytes: Uint8Array; cut: number } {
    const taken = { bytes: this.bytes.slice(0, this.length), cut: this.cut };
    if (this.bytes.length > 4_194_304) this.bytes = new Uint8Array(16_384);
    this.length = 0;
    this.cut = 0;
    return taken;
  }
}

function isBlank(line: Uint8Array): boolean {
  return line.length === 1 || (line.length === 2 && line[0] === CR);
}

function isSeparator(line: Uint8Array): boolean {
  if (line.length > MAX_SEPARATOR) return false;
  for (let at = 0; at < SEPARATOR.length; at += 1) if (line[at] !== SEPARATOR[at]) return false;
  return DAY_TIME.test(textOf(line));
}

/** `>From ` and `>>From ` lose one `>`. */
function unquotedFrom(line: Uint8Array): Uint8Array {
  if (line[0] !== GT) return line;
  let at = 1;
  while (line[at] === GT) at += 1;
  for (let next = 0; next < SEPARATOR.length; next += 1) if (line[at + next] !== SEPARATOR[next]) return line;
  return line.subarray(1);
}

/** The empty line before the next separator belongs to the mbox, not to the message. */
function withoutFinalBlankLine(raw: Uint8Array, separated: boolean): Uint8Array {
  if (!separated || raw.length < 2 || raw.at(-1) !== LF) return raw;
  if (raw.at(-2) === LF) return raw.subarray(0, -1);
  return raw.length > 2 && raw.at(-2) === CR && raw.at(-3) === LF ? raw.subarray(0, -2) : raw;
}

function textOf(bytes: Uint8Array): string {
  let text = '';
  for (const byte of bytes) text += String.fromCharCode(byte);
  return text;
}

function concatenated(parts: readonly Uint8Array[]): Uint8Array {
  const filled = parts.filter((part) => part.length > 0);
  if (filled.length === 1 && filled[0]) return filled[0];
  return joined(filled);
}
