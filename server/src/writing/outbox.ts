import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import { randomBytes } from 'node:crypto';
import { hostname } from 'node:os';
import { withoutBcc, withoutListFields, whatTraceProves } from '@fulvet/core';
import { announce } from '../base/live/changes';
import { MailFailure } from '../base/network/mailFailure';
import type { Services } from '../base/services';
import { WokenLoop } from '../base/wokenLoop';
import { targetOf } from '../mailboxes/connect/mailboxSecret';
import { loadFolders, loadMailbox } from '../mailboxes/mailbox';
import type { DueEmail } from './dueEmail';
import { LEASE_SECONDS, messageOf, secondsToNext, takeDue } from './dueEmail';
import { fileSent } from './fileSent';
import { handOver } from './handOver';
import type { HandedOver } from './handOver';
import { OUTGOING_QUEUE } from './sending';
import { findSent, keepInSentFolder } from './sentCopy';
import { lookAtRunOf } from './series/lookAtRun';
import { whyNotSent } from './whyNotSent';

const AT_ONCE = 4;
/** What the server did not take is tried again after these, in seconds; then its writer is told. */
const RETRY_SECONDS = [30, 120, 600, 1800, 3600];
/** Later than this, in minutes, no process was there when it was due. */
const SLEPT_MINUTES = 1;

/** Where the process ends in tests, as a kill would end it. */
export type Fault = (at: 'taken' | 'content' | 'answered' | 'noted' | 'copied' | 'filed') => Promise<void> | void;

/**
 * Hands due emails over to the mail servers, as one of any number of processes, each exactly once. What a process that died was at is taken over
 * by what can be proven of it; where nothing can, its writer is asked.
 */
export class Outbox {
  readonly holder = `${hostname()}:${process.pid}:${randomBytes(4).toString('hex')}`;
  private readonly loop: WokenLoop;

  constructor(
    private readonly services: Services,
    private readonly fault: Fault = () => undefined,
  ) {
    const { database } = services;
    this.loop = new WokenLoop(services, {
      name: 'outgoing email',
      queue: OUTGOING_QUEUE,
      atOnce: AT_ONCE,
      next: () => this.takeNext(),
      secondsToNext: () => secondsToNext(database.worker),
    });
  }

  start(): void {
    this.loop.start();
  }

  stop(): Promise<void> {
    return this.loop.stop();
  }

  /** @returns whether there was one */
  async takeNext(): Promise<boolean> {
    const email = await takeDue(this.services.database.worker, this.holder);
    if (!email) return false;
    const alive = setInterval(
      () => {
        this.note(email, sql`lease_until = now() + make_interval(secs => ${LEASE_SECONDS})`).catch(() => undefined);
      },
      (LEASE_SECONDS * 1000) / 3,
    );
    try {
      await this.fault('taken');
      await this.work(email);
    } catch (error) {
      this.services.log.error({ err: error, outgoing: email.id }, 'an outgoing email is left for later');
    } finally {
      clearInterval(alive);
      if (email.run_id !== null) await lookAtRunOf(this.services.database.worker, email.run_id).catch(() => undefined);
      await announce(this.services.database.worker, { kind: 'progress', of: OUTGOING_QUEUE, to: [email.writer_id] }).catch(() => undefined);
    }
    return true;
  }

  private async work(email: DueEmail): Promise<void> {
    if (email.state === 'sent' || (await this.isSent(email))) await this.putCopies(email);
  }

  /** Hands an email over, or finds out what became of it. @returns whether it was sent */
  private async isSent(email: DueEmail): Promise<boolean> {
    const trace = { response: email.response, contentBegun: email.content_begun };
    let proof = whatTraceProves({ ...trace, inSentFolder: null });
    if (proof === 'look') proof = whatTraceProves({ ...trace, inSentFolder: await this.looksSent(email) });
    // Due while no process ran, for instance from a backup: it may have been sent before the backup was put in place. A step of a series is due again then.
    const maySleep = email.late > SLEPT_MINUTES || email.run_id !== null;
    if (proof === 'not sent' && maySleep && (await this.looksSent(email))) proof = 'sent';
    if (proof === 'sent') return this.note(email, sql`state = 'sent', sent_at = coalesce(sent_at, now())`);
    if (proof === 'not sent') return this.send(email);
    await this.note(
      email,
      sql`state = 'unclear', problem = 'The connection ended before the mail server answered, and the sent folder has no copy. Ask the recipient, or look at your provider.'`,
    );
    return false;
  }

  private async send(email: DueEmail): Promise<boolean> {
    const { database, network } = this.services;
    const refusal = await whyNotSent(database.worker, email);
    if (refusal) {
      await this.note(email, refusal);
      return false;
    }
    const { wire } = await messageOf(this.services, email, this.holder);
    const target = await this.targetOf(email);
    if (target === null) return false;
    const envelope = {
      from: email.address,
      to: [...new Set([...email.to, ...email.cc, ...email.bcc].map(({ address }) => address))],
      source: withoutBcc(wire),
    };
    const done = await handOver(network, target, envelope, async () => {
      // Whoever lost its hold of the email sends nothing.
      if (!(await this.note(email, sql`content_begun = true`))) throw new Error('another process has taken this email over');
      await this.fault('content');
    });
    if (done.how === 'taken') await this.fault('answered');
    return this.noteHandedOver(email, done);
  }

  private async noteHandedOver(email: DueEmail, done: HandedOver): Promise<boolean> {
    switch (done.how) {
      case 'taken': {
        await this.note(email, sql`response = ${done.response || 'taken'}`);
        await this.fault('noted');
        const missed = done.refusedFor.map(({ address, said }) => `${address}: ${said}`).join(' ');
        const problem = missed ? `The mail server did not take it for everyone. ${missed}` : '';
        return this.note(email, sql`state = 'sent', sent_at = now(), problem = ${problem}`);
      }
      case 'refused':
        await this.note(email, sql`state = 'refused', problem = ${`The mail server refused it. It said: ${done.said}`}`);
        return false;
      case 'not now':
        await this.tryLater(email, done.said);
        return false;
      case 'unclear':
        // Looked at again when its hold runs out: by then a copy that the provider keeps is there.
        await this.note(
          email,
          sql`lease_until = now() + interval '5 seconds', problem = ${`The connection ended before the mail server answered: ${done.said}`}`,
        );
        return false;
    }
  }

  private async targetOf(email: DueEmail): Promise<Awaited<ReturnType<typeof targetOf>> | null> {
    const { database } = this.services;
    const mailbox = await loadMailbox(database.worker, email.mailbox_id);
    try {
      if (mailbox) return await targetOf(this.services, mailbox);
    } catch (error) {
      if (!(error instanceof MailFailure)) throw error;
      await this.tryLater(email, error.message);
    }
    return null;
  }

  private async tryLater(email: DueEmail, said: string): Promise<void> {
    const seconds = RETRY_SECONDS[email.tries - 1];
    await this.note(
      email,
      seconds === undefined
        ? sql`state = 'refused', problem = ${`The mail server could not take it, tried ${email.tries} times. It said: ${said}`}`
        : sql`state = 'due', content_begun = false, due_at = now() + make_interval(secs => ${seconds}), problem = ${`Tried again soon. The mail server said: ${said}`}`,
    );
  }

  /** Whether the sent folder has it; a mailbox without one has not. */
  private async looksSent(email: DueEmail): Promise<boolean> {
    const found = await findSent(this.services, email.mailbox_id, email.message_id);
    // What was sent is what is filed, where its message is not known any more.
    if (found) await this.note(email, sql`source = coalesce(source, ${found})`);
    return found !== null;
  }

  private async putCopies(email: DueEmail): Promise<void> {
    const { database } = this.services;
    const message = await messageOf(this.services, email, this.holder);
    const source = Buffer.from(withoutListFields(message.source));
    const sentFolder = (await loadFolders(database.worker, email.mailbox_id)).find(({ role }) => role === 'sent')?.path ?? 'Sent';
    // On the record at once; the copy in the mailbox follows.
    if (email.email_id === null) await fileSent(this.services, email, source, sentFolder);
    await this.fault('filed');
    if (!email.copied) {
      await keepInSentFolder(this.services, email.mailbox_id, email.message_id, source);
      await this.fault('copied');
    }
    await database.work(async (tx) => {
      await tx.execute(
        sql`INSERT INTO template_uses (template_id, email_id) SELECT template_id, email_id FROM outgoing WHERE id = ${email.id} AND template_id IS NOT NULL AND email_id IS NOT NULL ON CONFLICT DO NOTHING`,
      );
      await tx.execute(
        sql`UPDATE outgoing SET copied = true, source = NULL, wire = NULL, html = '', quote = '', unsubscribe = NULL WHERE id = ${email.id}`,
      );
      await tx.execute(sql`DELETE FROM outgoing_files WHERE outgoing_id = ${email.id}`);
    });
  }

  /** Notes something of an email that this process holds. @returns false where it does not hold it any more */
  private async note(email: DueEmail, what: SQL): Promise<boolean> {
    const { rowCount } = await this.services.database.worker.execute(
      sql`UPDATE outgoing SET ${what} WHERE id = ${email.id} AND holder = ${this.holder} AND state IN ('handing over', 'sent')`,
    );
    return (rowCount ?? 0) > 0;
  }
}
