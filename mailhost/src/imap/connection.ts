import type { Socket } from 'node:net';
import type { Faults } from '../faults';

/**
 * The lines of one IMAP connection: takes commands with their literals, sends answers, and does both as badly as the
 * faults in force ask for.
 */
export class Connection {
  private socket: Socket;
  private waiting = '';
  private command = '';
  private literal = 0;
  private bytesSent = 0;
  private busy: Promise<void> = Promise.resolve();
  /** Takes the next lines in place of commands: the answer to a `+` prompt. */
  private prompted: ((line: string) => void) | null = null;
  private readonly onData = (data: Buffer): void => this.take(data.toString('latin1'));

  constructor(
    socket: Socket,
    private readonly faults: () => Faults,
    private readonly run: (command: string) => Promise<void>,
  ) {
    this.socket = socket;
    this.listen(socket);
  }

  get closed(): boolean {
    return this.socket.destroyed || !this.socket.writable;
  }

  /** Goes on over another socket, after STARTTLS. What came before in plain text is thrown away. */
  moveTo(wrap: (socket: Socket) => Socket): void {
    this.socket.off('data', this.onData);
    this.waiting = '';
    this.socket = wrap(this.socket);
    this.listen(this.socket);
  }

  async send(data: string | Buffer): Promise<void> {
    const faults = this.faults();
    if (faults.delayMs > 0) await new Promise((resolve) => setTimeout(resolve, faults.delayMs));
    if (this.closed) return;
    let bytes = typeof data === 'string' ? Buffer.from(data, 'latin1') : data;
    const left = faults.dropAfterBytes - this.bytesSent;
    const drops = faults.dropAfterBytes > 0 && bytes.length >= left;
    if (drops) bytes = bytes.subarray(0, Math.max(0, left));
    this.bytesSent += bytes.length;
    const flowing = this.socket.write(bytes);
    if (drops) this.socket.end(() => this.socket.destroy());
    else if (!flowing) await new Promise<void>((resolve) => this.afterDrain(resolve));
  }

  line(text: string): Promise<void> {
    return this.send(`${text}\r\n`);
  }

  /** Sends a `+` prompt and gives the line that answers it. */
  async prompt(text: string): Promise<string> {
    const answer = new Promise<string>((resolve) => (this.prompted = resolve));
    await this.line(`+ ${text}`);
    return answer;
  }

  end(): void {
    this.socket.end();
  }

  private afterDrain(resolve: () => void): void {
    const done = (): void => {
      this.socket.off('drain', done);
      this.socket.off('close', done);
      resolve();
    };
    this.socket.on('drain', done);
    this.socket.on('close', done);
  }

  private listen(socket: Socket): void {
    socket.on('data', this.onData);
    socket.on('error', () => socket.destroy());
    socket.setNoDelay(true);
  }

  private take(data: string): void {
    this.waiting += data;
    for (;;) {
      if (this.literal > 0) {
        const part = this.waiting.slice(0, this.literal);
        this.command += part;
        this.waiting = this.waiting.slice(part.length);
        this.literal -= part.length;
        if (this.literal > 0) return;
      }
      const end = this.waiting.indexOf('\r\n');
      if (end < 0) return;
      const line = this.waiting.slice(0, end);
      this.waiting = this.waiting.slice(end + 2);
      if (this.prompted) {
        const answered = this.prompted;
        this.prompted = null;
        answered(line);
        continue;
      }
      this.command += line;
      const literal = /\{(\d+)(\+?)\}$/.exec(line);
      if (literal) {
        this.command += '\r\n';
        this.literal = Number(literal[1]);
        if (literal[2] === '') void this.line('+ Ready');
        continue;
      }
      const command = this.command;
      this.command = '';
      this.busy = this.busy
        .then(() => this.run(command))
        .catch(() => {
          this.socket.destroy();
        });
    }
  }
}
