import { routeTo } from '../../../server/src/testing/routeTo';
import type { Destination } from '../../../server/src/testing/routeTo';
import type { Random } from '@fulvet/demo';
import { followLateActivity } from '@fulvet/server';
import { until } from '../../../server/src/testing/mailboxTools';
import type { Answer, Crew, PlainEmail, TestServer } from '../../../server/src/testing/testServer';
import { changeRulebook, decideAll, finished, importMail, importRecords, mbox, owner } from '../../../server/src/testing/testServer';
import { DAY, NOW, US, DOMAINS, PEOPLE, NAMES, MATTERS, DEALS, KINDS } from './lifeWords';

/** The life of an installation: mail comes in, records are made, changed, merged and put right, in any order. */
export class Life {
  readonly told: string[] = [];
  private serial = 0;
  private readonly sent: PlainEmail[] = [];

  constructor(
    private readonly server: TestServer,
    private readonly crew: Crew,
    private readonly random: Random,
  ) {}

  private some<T>(of: readonly T[], most: number): T[] {
    return [...new Set(Array.from({ length: this.random.int(1, most) }, () => this.random.pick(of)))];
  }
  private day(): string {
    return new Date(NOW - this.random.int(0, 160) * DAY).toISOString().slice(0, 10);
  }

  async begin(): Promise<void> {
    await changeRulebook(this.server, this.crew.tokens.admin, (rulebook) => {
      rulebook.us.providers.added = ['freemail.example'];
      rulebook.match.deal = this.random.pick(['scored', 'certain'] as const);
      Object.assign(rulebook.create, {
        people: this.random.pick(['contact', 'contact', 'lead', 'nothing'] as const),
        after: this.random.pick(['weWrote', 'firstEmail', 'theyAnswered', 'emails'] as const),
        emails: 3,
        accounts: this.random.chance(0.7),
      });
      rulebook.share.level = 'everyone';
      this.told.push(`rulebook ${rulebook.match.deal} ${JSON.stringify(rulebook.create)}`);
    });
  }

  /** Does one thing, and tells what. */
  async step(): Promise<void> {
    const what = this.random.pick([
      this.mail,
      this.mail,
      this.mail,
      this.create,
      this.create,
      this.edit,
      this.edit,
      this.edit,
      this.merge,
      this.part,
      this.repair,
      this.repair,
      this.undoRepair,
      this.ownKeepOut,
      this.keepOut,
      this.letIn,
      this.importFile,
      this.goOverPast,
      this.undoPast,
    ]);
    await what.call(this);
    await this.rest();
  }

  private async ask(target: Destination, body?: unknown, token = this.crew.tokens.admin): Promise<Answer> {
    const answer = await this.server.call(target, { token, ...(body === undefined ? {} : { body }) });
    this.told.push(
      `${target.method} ${target.path} ${JSON.stringify(body ?? '')} → ${answer.status}${answer.status < 300 ? '' : ` ${answer.text.slice(0, 160)}`}`,
    );
    if (answer.status >= 500) throw new Error(this.told.slice(-6).join('\n'));
    return answer;
  }

  private rows(statement: string): Promise<Record<string, unknown>[]> {
    return owner(this.server.ownerUrl, statement);
  }

  /** Waits until nothing is at work any more. */
  async rest(): Promise<void> {
    const { services } = this.server;
    await until(
      () =>
        this.rows(
          `SELECT (SELECT count(*) FROM pgboss.job WHERE state IN ('created', 'retry', 'active') AND name NOT LIKE '%mailbox%' AND name NOT LIKE '\\_\\_%' AND name <> 'retention')::int AS jobs, (SELECT count(*) FROM emails WHERE decided_at IS NULL)::int AS open`,
        ),
      ([row]) => row?.jobs === 0 && row.open === 0,
    );
    await followLateActivity(services.database, services.blobs);
  }

  private address(value: string): string {
    return `${NAMES[value.split('@')[0] ?? ''] ?? ''} <${value}>`;
  }

  private async mail(): Promise<void> {
    const emails = Array.from({ length: this.random.int(1, 4) }, (): PlainEmail => {
      this.serial += 1;
      const people = this.some(PEOPLE, 3);
      const us = this.some(US, 2);
      const ours = this.random.chance(0.5);
      const parent = this.sent.length > 0 && this.random.chance(0.45) ? this.random.pick(this.sent) : null;
      const [first = '', ...rest] = ours ? us : people.map((person) => this.address(person));
      const [to = '', ...cc] = ours ? people.map((person) => this.address(person)) : us;
      const email: PlainEmail = {
        id: `${this.serial}@life.example`,
        from: first,
        to,
        cc: [...cc, ...rest].join(', '),
        subject: parent && this.random.chance(0.8) ? `Re: ${(parent.subject ?? '').replace(/^Re: /, '')}` : this.random.pick(MATTERS),
        date: new Date(NOW - this.random.int(0, 150) * DAY - this.random.int(0, 80_000) * 1000).toUTCString(),
        text: this.random.chance(0.15) ? 'It is about QH-2, as you know.' : 'Hello',
        ...(parent ? { references: `<${String(parent.id)}>` } : {}),
        ...(this.random.chance(0.08) ? { headers: 'List-Unsubscribe: <mailto:off@life.example>' } : {}),
      };
      this.sent.push(email);
      return email;
    });
    for (const mailbox of US) {
      const theirs = emails.filter((email) => [email.from, email.to, email.cc].some((part) => part?.includes(mailbox)));
      if (theirs.length === 0) continue;
      this.told.push(`mail of ${mailbox}: ${JSON.stringify(theirs)}`);
      await importMail(this.server, this.crew.tokens.admin, mailbox, { [`${this.serial}.mbox`]: mbox(theirs) });
    }
  }

  private async values(kind: (typeof KINDS)[number]): Promise<Record<string, string>> {
    const accounts = (await this.rows('SELECT name FROM accounts ORDER BY id')).map((row) => String(row.name));
    const account: Record<string, string> = accounts.length > 0 && this.random.chance(0.6) ? { account: this.random.pick(accounts) } : {};
    const addresses = (await this.rows('SELECT address FROM person_addresses ORDER BY 1')).map((row) => String(row.address));
    if (kind === 'account')
      return {
        name: `${this.random.pick(['Fish', 'Dredge', 'Harbour', 'Oriel'])} ${this.random.int(1, 3)}`,
        ...(this.random.chance(0.8) ? { domains: this.some(DOMAINS.slice(0, 4), 2).join(';') } : {}),
      };
    if (kind === 'deal')
      return {
        name: `${this.random.pick(DEALS)}${this.random.chance(0.3) ? ` ${this.random.int(1, 3)}` : ''}`,
        ...(this.random.chance(0.4) ? { code: `QH-${this.random.int(1, 3)}` } : {}),
        ...account,
        ...(addresses.length > 0 && this.random.chance(0.7) ? { people: this.some(addresses, 3).join(';') } : {}),
        ...(this.random.chance(0.3) ? { open: 'no', closed_on: this.day() } : {}),
        ...(this.random.chance(0.3) ? { opened_on: this.day() } : {}),
        ...(this.random.chance(0.5) ? { owner: this.random.pick(US) } : {}),
      };
    const emails = this.some(PEOPLE, 2);
    return { name: NAMES[emails[0]?.split('@')[0] ?? ''] ?? 'Somebody', emails: emails.join(';'), ...(kind === 'contact' ? account : {}) };
  }

  private async create(): Promise<void> {
    const kind = this.random.pick(KINDS);
    await this.ask(routeTo('createRecord', { kind }), { values: await this.values(kind) });
  }

  private async importFile(): Promise<void> {
    const kind = this.random.pick(KINDS);
    const lines = [await this.values(kind), await this.values(kind)];
    const columns = [...new Set(lines.flatMap((line) => Object.keys(line)))];
    const text = [columns.join(','), ...lines.map((line) => columns.map((column) => line[column] ?? '').join(','))].join('\n');
    const answer = await importRecords(this.server, this.crew.tokens.admin, kind, text);
    this.told.push(`import of ${kind}s ${JSON.stringify(text)} → ${answer.status} ${JSON.stringify(answer.json.counts ?? answer.json)}`);
  }

  private async someRecord(kind: string): Promise<number | null> {
    const rows = await this.rows(`SELECT id FROM ${kind}s ORDER BY id`);
    return rows.length === 0 ? null : Number(this.random.pick(rows).id);
  }

  private async edit(): Promise<void> {
    const kind = this.random.pick(KINDS);
    const id = await this.someRecord(kind);
    if (id === null) return;
    const all = await this.values(kind);
    const values: Record<string, string> = {};
    for (const key of this.some(Object.keys(all), 2))
      values[key] = key !== 'name' && key !== 'emails' && this.random.chance(0.25) ? '' : (all[key] ?? '');
    if (values.open === 'no' && this.random.chance(0.3)) values.open = 'yes';
    await this.ask(routeTo('editRecord', { kind, id }), { values });
  }

  private async merge(): Promise<void> {
    const kind = this.random.pick(['contact', 'account', 'lead'] as const);
    const [first, second] = [await this.someRecord(kind), await this.someRecord(kind)];
    if (first === null || second === null || first === second) return;
    await this.ask(routeTo('mergeRecords', { kind, id: first }), { gone: second, take: this.random.chance(0.4) ? ['name'] : [] });
  }

  private async part(): Promise<void> {
    const { merges } = (await this.ask(routeTo('listMerges'))).json;
    if (merges.length > 0) await this.ask(routeTo('undoMerge', { id: this.random.pick<{ id: number }>(merges).id }));
  }

  private async repair(): Promise<void> {
    const emails = await this.rows(`SELECT e.id FROM emails e WHERE outcome <> 'kept out' ORDER BY 1`);
    if (emails.length === 0) return;
    const kind = this.random.pick(KINDS);
    const id = await this.someRecord(kind);
    const what = this.random.pick([
      id === null ? { settle: true } : { file: [{ kind, id }] },
      { takeOff: [{ kind: null, id: null }] },
      id === null ? { settle: true } : { takeOff: [{ kind, id: this.random.chance(0.5) ? id : null }] },
      { settle: true },
      { seal: true },
    ]);
    await this.ask(
      routeTo('repair'),
      { emails: [Number(this.random.pick(emails).id)], reach: this.random.pick(['email', 'conversation']), ...what },
      this.crew.tokens[this.random.pick(['rep', 'other'] as const)],
    );
  }

  private async undoRepair(): Promise<void> {
    const token = this.crew.tokens[this.random.pick(['rep', 'other'] as const)];
    const { repairs } = (await this.ask(routeTo('listRepairs'), undefined, token)).json;
    if (repairs?.length > 0) await this.ask(routeTo('undoRepair', { id: this.random.pick<{ id: number }>(repairs).id }), undefined, token);
  }

  private async ownKeepOut(): Promise<void> {
    const token = this.crew.tokens[this.random.pick(['rep', 'other'] as const)];
    const { keepOuts } = (await this.ask(routeTo('listOwnKeepOuts'), undefined, token)).json;
    if (keepOuts.length > 0 && this.random.chance(0.5))
      await this.ask(routeTo('removeOwnKeepOut', { id: this.random.pick<{ id: number }>(keepOuts).id }), undefined, token);
    else
      await this.ask(
        routeTo('addOwnKeepOut'),
        this.random.chance(0.5)
          ? { kind: 'address', value: this.random.pick(PEOPLE) }
          : { kind: 'domain', value: this.random.pick(DOMAINS.slice(0, 4)) },
        token,
      );
  }

  private async keepOut(): Promise<void> {
    await this.ask(routeTo('keepOut'), {
      ...(this.random.chance(0.6)
        ? { kind: 'address', value: this.random.pick(PEOPLE) }
        : { kind: 'domain', value: this.random.pick(DOMAINS.slice(0, 4)) }),
      effect: this.random.pick(['ignore', 'keepOut']),
    });
  }

  /** Another rulebook, and past mail decided by it. */
  private async goOverPast(): Promise<void> {
    await changeRulebook(this.server, this.crew.tokens.admin, (rulebook) => {
      Object.assign(rulebook.create, {
        people: this.random.pick(['contact', 'lead', 'nothing'] as const),
        after: this.random.pick(['weWrote', 'firstEmail', 'theyAnswered'] as const),
        accounts: this.random.chance(0.7),
      });
      rulebook.takeIn.scope = this.random.pick(['external', 'external', 'known', 'answers'] as const);
      this.told.push(`rulebook ${rulebook.takeIn.scope} ${JSON.stringify(rulebook.create)}`);
    });
    const withoutMade = this.random.chance(0.5);
    const run = await decideAll(this.server, this.crew.tokens.admin, { withoutMade });
    this.told.push(`past mail again${withoutMade ? ', without what mail created' : ''}: ${JSON.stringify(run)}`);
    if (run.state !== 'done') throw new Error(this.told.slice(-6).join('\n'));
  }

  private async undoPast(): Promise<void> {
    const { runs } = (await this.ask(routeTo('listDecideRuns'))).json;
    const [last] = runs.filter((run: { undoable: boolean }) => run.undoable);
    if (!last) return;
    const { kept } = (await this.ask(routeTo('undoDecideRun', { id: last.id }), { rulebook: true })).json;
    await this.rest();
    // Undone, mail stands as it stood, also where a record stays that it would go under now.
    if (kept?.length > 0) this.told.push(JSON.stringify(await decideAll(this.server, this.crew.tokens.admin)));
  }

  private async letIn(): Promise<void> {
    const { document } = (await this.ask(routeTo('getRulebook'))).json;
    const { entries } = document.keepOut;
    if (entries.length > 0) await this.ask(routeTo('removeKeepOut', { entry: this.random.pick<{ id: string }>(entries).id }));
  }

  /** What deciding all past mail again would change, each in words; nothing, where all that happened was followed. */
  async staleNow(): Promise<string[]> {
    const { json } = await this.server.call(routeTo('startTrial'), { token: this.crew.tokens.admin, body: {} });
    const trial = await finished(this.server, this.crew.tokens.admin, routeTo('getTrial', { id: json.id }));
    if (trial.state !== 'done') throw new Error(trial.message);
    if (trial.summary.changed === 0) return [];
    const rows = await this.rows(
      `SELECT e.message_id, r.outcome_before, r.outcome_after, r.won, r.lost, r.visibility_before, r.visibility_after, (SELECT docket FROM dockets k WHERE k.email_id = e.id) AS before, (SELECT docket FROM trial_dockets k WHERE k.email_id = e.id AND k.trial_id = r.trial_id) AS after FROM trial_rows r JOIN emails e ON e.id = r.email_id WHERE r.trial_id = ${json.id}`,
    );
    return rows.map((row) => JSON.stringify(row));
  }
}
