import { routeTo } from './routeTo';
import type { Destination } from './routeTo';
import { setTimeout as pause } from 'node:timers/promises';
import { randomFrom } from '../../../core/src/testing/random';
import { ChangingWorld } from './sightChanges';
import { IDA, KIM, lines, makeSightWorld, OLA } from './sightMail';
import type { Made } from './sightMail';
import type { ModelEmail, ModelState, ModelUser, Sees } from './sightModel';
import { isSealed, sees, seesRecord } from './sightModel';
import type { Writing } from './sightWriting';
import { compareWriting, plantWriting } from './sightWriting';
import type { Answer, Crew, TestServer } from './testServer';

export { randomFrom };

/** A changing installation whose every way out is compared with the model. */
export class SightWorld extends ChangingWorld {
  private constructor(
    server: TestServer,
    crew: Crew,
    state: ModelState,
    mail: readonly Made[],
    private readonly writing: Writing,
  ) {
    super(server, crew, state, mail);
  }

  static async make(): Promise<SightWorld> {
    const { server, crew, state, mail } = await makeSightWorld();
    return new SightWorld(server, crew, state, mail, await plantWriting(server, crew, state));
  }

  /** Every difference between what the ways out give and what the model says; empty when all is right. */
  async differences(random: () => number): Promise<string[]> {
    const found: string[] = [];
    for (const { to, records } of this.heard)
      for (const user of this.state.users.filter((item) => to === 'everyone' || to.includes(item.id)))
        for (const record of records)
          if (!this.mayHear.get(user.id)?.has(record))
            found.push(`${this.nameOf(user.id)}: is told that mail of ${record} changed, and knows of none`);
    // Each with random numbers of their own: they ask at the same time, and what a seed brings is to be the same each time.
    const numbers = this.state.users.map(() => randomFrom(Math.floor(random() * 2 ** 32)));
    await Promise.all(
      this.state.users.map((user, at) =>
        this.compareFor(user, numbers[at] ?? random, (text) => found.push(`${this.nameOf(user.id)}: ${text}`)),
      ),
    );
    return found;
  }

  private async compareFor(user: ModelUser, random: () => number, differs: (text: string) => void): Promise<void> {
    const { state } = this;
    const get = (target: Destination): Promise<Answer> => this.call(user.id, target);
    const sight = new Map<string, Sees>(state.emails.map((email) => [email.key, sees(state, user, email)]));
    const knows = state.emails.filter((email) => sight.get(email.key) !== 'nothing');
    const reads = state.emails.filter((email) => sight.get(email.key) === 'reads');
    const same = (what: string, given: unknown, wanted: unknown): void => {
      const [first, second] = [JSON.stringify(given), JSON.stringify(wanted)];
      if (first !== second) differs(`${what}: ${first}, and should be ${second}`);
    };
    const keys = (list: readonly ModelEmail[]): string[] => list.map((email) => email.key).sort();
    const keyOf = (id: number): string => state.emails.find((email) => email.id === id)?.key ?? `unknown ${id}`;

    const register = (await get(routeTo('listEmails', { limit: 200 }))).json;
    same('register', register.emails.map((email: { id: number }) => keyOf(email.id)).sort(), keys(knows));
    same('register total', register.total, knows.length);
    same(
      'readable in the register',
      register.emails
        .filter((email: { content: unknown }) => email.content !== null)
        .map((email: { id: number }) => keyOf(email.id))
        .sort(),
      keys(reads),
    );
    for (const row of register.emails as { id: number; filings: { kind: string; name: string }[] }[]) {
      const email = state.emails.find((item) => item.id === row.id);
      if (email)
        same(
          `filings of ${email.key}`,
          row.filings.map((filing) => `${filing.kind}:${filing.name}`).sort(),
          this.filingsFor(user, email, sight.get(email.key) ?? 'nothing'),
        );
    }
    // The other ways out by turns, so that many worlds can be compared.
    const ways: (() => Promise<void>)[] = [
      async () => {
        same('line', (await get(routeTo('getLine'))).json.came, knows.length);
        same('search for all', (await get(routeTo('search', { text: 'tide' }))).json.emailTotal, reads.length);
      },
      async () => {
        const told = lines((await get(routeTo('exportDecisions'))).text).map((line) => line.messageId);
        same('export of decisions', told.sort(), knows.map((email) => email.messageId).sort());
        const exported = (await get(routeTo('exportMail'))).text;
        same('export of mail', keys(state.emails.filter((email) => exported.includes(`token${email.key} `))), keys(reads));
      },
      async () => {
        const email = state.emails[Math.floor(random() * state.emails.length)];
        if (!email) return;
        const wanted = sight.get(email.key) ?? 'nothing';
        const detail = await get(routeTo('getEmail', { id: email.id }));
        same(`detail of ${email.key}`, detail.status === 404 ? 'nothing' : detail.json.content === null ? 'exists' : 'reads', wanted);
        if (wanted !== 'reads' && detail.text.includes(`token${email.key}`)) differs(`the text of ${email.key} leaks`);
        same(`source of ${email.key}`, (await get(routeTo('getEmailSource', { id: email.id }))).status, wanted === 'reads' ? 200 : 404);
        same(`eyes of ${email.key}`, (await get(routeTo('getEyes', { id: email.id }))).status, wanted === 'nothing' ? 404 : 200);
        same(
          `search for ${email.key}`,
          (await get(routeTo('search', { text: `token${email.key}` }))).json.emailTotal,
          wanted === 'reads' ? 1 : 0,
        );
      },
      async () => {
        const person = [IDA, KIM, OLA][Math.floor(random() * 3)] ?? IDA;
        const total = (await get(routeTo('listEmails', { person }))).json.total;
        same(`mail with ${person}`, total, reads.filter((email) => email.people.includes(person)).length);
        if (user.role === 'admin') await this.compareAudit(same);
      },
      () => this.compareRecords(user, sight, random, same),
      () => this.compareEyes(user, same),
      async () => {
        const name = this.nameOf(user.id);
        const reader = { user, name, token: this.crew.tokens[name], sight, same };
        await compareWriting(this.server, state, this.writing, reader, (below) => Math.floor(random() * below));
      },
    ];
    await ways[Math.floor(random() * ways.length)]?.();
  }

  /** Records under which a user sees an email stand: people's names are no part of that it exists. */
  private filingsFor(user: ModelUser, email: ModelEmail, sight: Sees): string[] {
    if (isSealed(this.state, email)) return [];
    const named = (key: string): boolean =>
      sight === 'reads' || user.role === 'admin' || key.startsWith('account:') || key.startsWith('deal:');
    return email.filings.filter((key) => named(key) && seesRecord(this.state, user, key)).sort();
  }

  private async compareRecords(
    user: ModelUser,
    sight: ReadonlyMap<string, Sees>,
    random: () => number,
    same: (what: string, given: unknown, wanted: unknown) => void,
  ): Promise<void> {
    const { state } = this;
    for (const kind of ['contact', 'account', 'deal']) {
      const wanted = [...state.records].filter(([key]) => key.startsWith(`${kind}:`) && seesRecord(state, user, key));
      const listed = (await this.call(user.id, routeTo('listRecords', { kind, limit: 50 }))).json;
      same(`list of ${kind}s`, listed.records.map((record: { id: number }) => record.id).sort(), wanted.map(([, item]) => item.id).sort());
    }
    for (const [key, record] of [...state.records].filter(() => random() < 0.34)) {
      const [kind = ''] = key.split(':');
      const detail = await this.call(user.id, routeTo('getRecord', { kind, id: record.id }));
      const seen = seesRecord(state, user, key);
      same(`record ${key}`, detail.status, seen ? 200 : 404);
      if (!seen) continue;
      const under = state.emails.filter((email) => {
        const filings = this.filingsFor(user, email, sight.get(email.key) ?? 'nothing');
        const own = filings.includes(key);
        const byDeal =
          kind === 'account' && filings.some((filing) => filing.startsWith('deal:') && state.records.get(filing)?.account === key);
        return sight.get(email.key) !== 'nothing' && (own || byDeal);
      });
      same(`emails of ${key}`, detail.json.emails, under.length);
      const history = (await this.call(user.id, routeTo('getHistory', { kind, id: record.id }))).json;
      const shown = (history.conversations as { emails: { id: number }[] }[]).flatMap((conversation) =>
        conversation.emails.map((it) => it.id),
      );
      const extra = shown.filter(
        (id) =>
          !under.some((email) => email.id === id) && sight.get(state.emails.find((email) => email.id === id)?.key ?? '') === 'nothing',
      );
      same(`history of ${key} shows what is not known`, extra, []);
    }
  }

  /** “Who sees it?”, asked by each owner, tells of everyone what the model says. */
  private async compareEyes(user: ModelUser, same: (what: string, given: unknown, wanted: unknown) => void): Promise<void> {
    const mine = this.state.emails.filter((email) => (this.state.owners.get(email.key) ?? []).includes(user.id)).slice(0, 2);
    for (const email of mine) {
      const { eyes } = (await this.call(user.id, routeTo('getEyes', { id: email.id }))).json as {
        eyes: { user: { id: number }; reads: boolean }[];
      };
      const wanted = this.state.users
        .map((item) => [item.id, sees(this.state, item, email)] as const)
        .filter(([, sight]) => sight !== 'nothing')
        .map(([id]) => id)
        .sort();
      same(`eyes on ${email.key}`, eyes.map((viewer) => viewer.user.id).sort(), wanted);
    }
  }

  private async compareAudit(same: (what: string, given: unknown, wanted: unknown) => void): Promise<void> {
    const { entries } = (await this.call('admin', routeTo('listAudit', { limit: 500 }))).json as {
      entries: { actor: string; emailId: number | null; about: string }[];
    };
    const hidden = new Set(
      this.state.emails.filter((email) => sees(this.state, this.user(this.crew.ids.admin), email) === 'nothing').map((email) => email.id),
    );
    same('audit entries about what is sealed', entries.filter((entry) => entry.emailId !== null && hidden.has(entry.emailId)).length, 0);
    // What administrators seal in mailboxes that they use, they know themselves.
    const ofOthers = entries.filter((entry) => entry.actor !== 'Ada Admin');
    same('audit entries that tell of seals', ofOthers.filter((ofOther) => ofOther.about.includes('seal')).length, 0);
  }

  /** A trial by an administrator: its numbers are of what is not sealed. */
  async trialDifferences(): Promise<string[]> {
    const visible = this.state.emails.filter((email) => !isSealed(this.state, email)).length;
    const made = await this.ok('admin', routeTo('startTrial'), { name: 'sight', mailboxes: [] });
    for (;;) {
      const trial = await this.ok('admin', routeTo('getTrial', { id: made.id }));
      if (['queued', 'running'].includes(trial.state)) {
        await pause(20);
        continue;
      }
      const total = Number(trial.total);
      await this.call('admin', routeTo('deleteTrial', { id: made.id }));
      return total === visible ? [] : [`a trial counts ${total} emails, and should ${visible}`];
    }
  }
}
