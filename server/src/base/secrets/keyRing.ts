import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, renameSync, statSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { z } from 'zod';

const fileSchema = z.object({ current: z.string(), keys: z.record(z.string(), z.string()) });
type KeyFile = z.infer<typeof fileSchema>;

const KEY_BYTES = 32;
const IV_BYTES = 12;

/** A sealed secret that cannot be opened: its key is gone, or it was changed. */
export class SealBroken extends Error {}

/**
 * Seals secrets for the database with keys that lie in a file outside of it: AES-256-GCM, bound to what the secret belongs to,
 * so that it cannot be moved to another row. The file is read again when another process has changed it.
 */
export class KeyRing {
  private content: KeyFile;
  private readAt = 0;

  private constructor(private readonly file: string) {
    this.content = this.read();
  }

  /** Opens the key file; makes it with a first key when it is not there. */
  static open(file: string): KeyRing {
    if (!existsSync(file)) {
      mkdirSync(dirname(file), { recursive: true, mode: 0o700 });
      const first = newKey();
      try {
        writeFileSync(file, JSON.stringify({ current: first.id, keys: { [first.id]: first.key } }), { mode: 0o600, flag: 'wx' });
      } catch (error) {
        // Another process that starts at the same moment was faster.
        if (!existsSync(file)) throw error;
      }
    }
    return new KeyRing(file);
  }

  /** @param mailboxBelongsTo what the secret is of, such as `mailbox 12` */
  seal(secret: string, mailboxBelongsTo: string): string {
    this.refresh();
    const id = this.content.current;
    const iv = randomBytes(IV_BYTES);
    const cipher = createCipheriv('aes-256-gcm', this.key(id), iv);
    cipher.setAAD(Buffer.from(mailboxBelongsTo));
    const sealed = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return ['v1', id, ...[iv, cipher.getAuthTag(), sealed].map((part) => part.toString('base64url'))].join('.');
  }

  /** @throws {SealBroken} */
  open(sealed: string, mailboxBelongsTo: string): string {
    const [version, id = '', iv = '', tag = '', data = ''] = sealed.split('.');
    if (version !== 'v1') throw new SealBroken('The secret is sealed in an unknown way.');
    try {
      const decipher = createDecipheriv('aes-256-gcm', this.key(id), Buffer.from(iv, 'base64url'));
      decipher.setAAD(Buffer.from(mailboxBelongsTo));
      decipher.setAuthTag(Buffer.from(tag, 'base64url'));
      return Buffer.concat([decipher.update(Buffer.from(data, 'base64url')), decipher.final()]).toString('utf8');
    } catch (error) {
      if (error instanceof SealBroken) throw error;
      throw new SealBroken('The secret does not open with the key that it names.');
    }
  }

  /** True when the secret is sealed with the newest key. */
  isCurrent(sealed: string): boolean {
    this.refresh();
    return sealed.split('.')[1] === this.content.current;
  }

  /** Adds a new key, which seals from now on. The old ones still open. */
  addKey(): void {
    const { id, key } = newKey();
    this.write({ current: id, keys: { ...this.read().keys, [id]: key } });
  }

  /** Throws away all keys but the newest; call it when every secret is sealed with that. */
  dropOldKeys(): void {
    const { current, keys } = this.read();
    this.write({ current, keys: { [current]: keys[current] ?? '' } });
  }

  private key(id: string): Buffer {
    if (!this.content.keys[id]) this.refresh();
    const key = this.content.keys[id];
    if (!key) throw new SealBroken('The key of this secret is not in the key file.');
    return Buffer.from(key, 'base64url');
  }

  private refresh(): void {
    if (existsSync(this.file) && statSync(this.file).mtimeMs !== this.readAt) this.content = this.read();
  }

  private read(): KeyFile {
    this.readAt = statSync(this.file).mtimeMs;
    const parsed = fileSchema.safeParse(JSON.parse(readFileSync(this.file, 'utf8')));
    if (!parsed.success) throw new Error(`${this.file} is not a key file. Bring back the one that belongs to this database.`);
    return parsed.data;
  }

  private write(content: KeyFile): void {
    const next = `${this.file}.${process.pid}.new`;
    writeFileSync(next, JSON.stringify(content), { mode: 0o600 });
    renameSync(next, this.file);
    this.content = this.read();
  }
}

function newKey(): { id: string; key: string } {
  return { id: randomBytes(6).toString('hex'), key: randomBytes(KEY_BYTES).toString('base64url') };
}
