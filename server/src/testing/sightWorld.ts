import type { Answer, Crew, PlainEmail, TestServer } from './testServer';
import { changeRulebook, decideAll, importMail, mbox, owner, setUpCrew, startTestServer } from './testServer';
import { setTimeout as pause } from 'node:timers/promises';
import type { Level, ModelEmail, ModelState, ModelUser, Sees } from './sightModel';
import { changeHands, isSealed, releaseUnsealed, sees, seesRecord } from './sightModel';

type Who = keyof Crew['tokens'];
const WHO: readonly Who[] = ['admin', 'lead', 'rep', 'other', 'viewer'];
const LEVELS: readonly Level[] = ['owner', 'record', 'teams', 'everyone'];

/** Random numbers from a seed, so that a world can be made again. */
export function randomFrom(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(state ^ (state >>> 15), 1 | state);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), 61 | mixed);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 4_294_967_296;
  };
}

interface Made extends PlainEmail {
  id: string;
  boxes: string[];
  conversation: string;
  people: string[];
}

const day = (ago: number): string => new Date(Date.now() - ago * 86_400_000).toUTCString().replace('GMT', '+0000');
const IDA = 'ida@harbour.example';
const KIM = 'kim@reef.example';
const OLA = 'ola@marsh.example';

/** The mail of the world: each email has a word of its own, and one that all have. */
function mailOf(): Made[] {
  let ago = 25;
  const one = (id: string, from: string, boxes: string[], more: Partial<Made> = {}): Made => ({
    id,
    from,
    to: boxes.map((box) => `${box}@quillmere.example`).join(', '),
    subject: `Gauge ${id}`,
    text: `token${id} tide`,
    date: day((ago -= 1)),
    boxes,
    conversation: id,
    people: [from],
    ...more,
  });
  return [
    one('a1', IDA, ['rep']),
    one('a2', IDA, ['rep'], { references: '<a1>', conversation: 'a1' }),
    one('a3', IDA, ['rep', 'other'], { references: '<a1>', conversation: 'a1', subject: 'zeta Gauge a3' }),
    one('b1', KIM, ['other']),
    one('b2', KIM, ['other', 'lead'], { subject: 'QH-2002 zeta Gauge b2' }),
    one('c1', OLA, ['rep']),
    one('c2', OLA, ['lead']),
    one('d1', IDA, ['lead'], { cc: KIM, people: [IDA, KIM], subject: 'QH-2001 Gauge d1' }),
    one('n1', 'news@reef.example', ['rep'], { headers: 'List-Unsubscribe: <https://reef.example/off>\r\nList-Id: <news.reef.example>' }),
  ];
}

/**
 * An installation whose settings of sight are changed at random, through the API as people do, beside a plain model of who may see what. What every way out
 * gives is compared with the model.
 */
export class SightWorld {
  private order = 0;

  private constructor(
    readonly server: TestServer,
    private readonly crew: Crew,
    readonly state: ModelState,
  ) {}

  static async make(): Promise<SightWorld> {
    const server = await startTestServer();
    const crew = await setUpCrew(server);
    const admin = (method: string, path: string, body?: unknown) => server.call(method, path, { token: crew.tokens.admin, body });
    await admin('POST', '/records/account/import', {
      text: 'name,domains,owner\nHarbour Oriel,harbour.example,lead@quillmere.example\nReef,reef.example,other@quillmere.example\n',
    });
    await admin('POST', '/records/contact/import', {
      text: `name,emails,account,owner\nIda Brandt,${IDA},Harbour Oriel,viewer@quillmere.example\nKim Aster,${KIM},Reef,\n`,
    });
    await admin('POST', '/records/deal/import', {
      text: `code,name,account,people,open,owner\nQH-2001,Outer harbour,Harbour Oriel,${IDA},no,rep@quillmere.example\nQH-2002,Reef marks,Reef,${KIM},no,lead@quillmere.example\n`,
    });
    const teams = new Map<string, { id: number; members: number[] }>();
    for (const name of ['coast', 'rivers']) {
      const made = await admin('POST', '/teams', { name, members: [] });
      teams.set(name, { id: made.json.id, members: [] });
    }
    const mail = mailOf();
    for (const box of ['rep', 'other', 'lead'])
      await importMail(server, crew.tokens.admin, `${box}@quillmere.example`, {
        [`${box}.mbox`]: mbox(mail.filter((one) => one.boxes.includes(box))),
      });
    const state = await firstState(server, crew, mail, teams);
    return new SightWorld(server, crew, state);
  }

  private call(who: Who | number, method: string, path: string, body?: unknown): Promise<Answer> {
    const name = typeof who === 'number' ? this.nameOf(who) : who;
    return this.server.call(method, path, { token: this.crew.tokens[name], ...(body === undefined ? {} : { body }) });
  }

  private nameOf(id: number): Who {
    return WHO.find((one) => this.crew.ids[one] === id) ?? 'admin';
  }

  /** Some random changes, each made through the API and in the model. @returns what was done, in words */
  async change(random: () => number, steps: number): Promise<string[]> {
    const done: string[] = [];
    for (let at = 0; at < steps; at += 1) {
      const sealed = new Set(this.state.emails.filter((one) => isSealed(this.state, one)).map((one) => one.key));
      done.push(await this.step(random));
      releaseUnsealed(this.state, sealed);
    }
    await this.settled();
    return done;
  }

  private async step(random: () => number): Promise<string> {
    const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
    const { state } = this;
    const kinds = [
      'rules',
      'teams',
      'share',
      'share',
      'seal',
      'seal',
      'repair',
      'grant',
      'grant',
      'withdraw',
      'withdraw',
      'withdraw',
      'ask',
      'users',
      'pass',
      'emergency',
      'deal',
      'own',
      'reach',
    ];
    const kind = pick(kinds);
    const ownerOf = (email: ModelEmail): number | undefined => pick(state.owners.get(email.key) ?? []);
    const email = pick(state.emails);
    const user = ownerOf(email);
    // Viewers have no words of their own.
    const mayRepair = user !== undefined && this.nameOf(user) !== 'viewer';
    switch (kind) {
      case 'rules': {
        const level = (): ModelState['usual'] => {
          const chosen = pick(LEVELS);
          return {
            level: chosen,
            teams: chosen === 'teams' ? [pick(['coast', 'rivers'])] : [],
            existenceOnly: chosen !== 'owner' && random() < 0.4,
          };
        };
        const usual = level();
        // The stop's default knows no teams.
        state.usual = usual.level === 'teams' ? { level: 'record', teams: [], existenceOnly: usual.existenceOnly } : usual;
        state.marked = level();
        await this.putLevels();
        return `rules: ${JSON.stringify(state.usual)} ${JSON.stringify(state.marked)}`;
      }
      case 'teams': {
        const name = pick(['coast', 'rivers']);
        const team = state.teams.get(name);
        if (!team) return 'no team';
        team.members = state.users.filter(() => random() < 0.4).map((one) => one.id);
        await this.ok('admin', 'PUT', `/teams/${team.id}`, { members: team.members });
        return `team ${name}: ${team.members.join(' ')}`;
      }
      case 'share':
      case 'seal': {
        if (!mayRepair) return 'nobody to say a word';
        const scope = pick(['email', 'conversation', 'person', 'domain'] as const);
        const person = pick(email.people);
        const about = scope === 'person' ? person : scope === 'domain' ? person.slice(person.indexOf('@') + 1) : email.key;
        const level = pick(LEVELS);
        const word = {
          user,
          does: kind as 'seal' | 'share',
          scope,
          about,
          level: kind === 'seal' ? ('owner' as const) : level,
          teams: kind === 'share' && level === 'teams' ? [pick(['coast', 'rivers'])] : [],
          existenceOnly: kind === 'share' && level !== 'owner' && random() < 0.4,
          order: (this.order += 1),
        };
        const made = await this.ok(user, 'POST', '/my-mail/words', {
          does: word.does,
          scope,
          ...(scope === 'email' || scope === 'conversation' ? { emailId: email.id } : { value: about }),
          ...(kind === 'share' ? { level, teams: word.teams, existenceOnly: word.existenceOnly } : {}),
          always: random() < 0.7,
        });
        state.words.push({ ...word, id: made.id });
        return `${this.nameOf(user)} ${kind} ${scope} ${about} ${word.level} ${word.teams.join()} ${String(word.existenceOnly)}`;
      }
      case 'repair': {
        if (!mayRepair) return 'nobody to seal';
        const whole = random() < 0.5;
        const made = await this.ok(user, 'POST', '/repairs', { emails: [email.id], reach: whole ? 'conversation' : 'email', seal: true });
        state.seals.push({ id: made.id, user, email: email.key, whole });
        return `${this.nameOf(user)} seals ${email.key} ${whole ? 'with its conversation' : 'alone'} by hand`;
      }
      case 'grant': {
        const to = pick(state.users.filter((one) => one.id !== user)).id;
        if (!mayRepair || to === user) return 'nobody to share';
        const record = pick(email.filings.length > 0 ? email.filings : ['']);
        const scope =
          record === '' || isSealed(state, email)
            ? pick(['email', 'conversation'] as const)
            : pick(['email', 'conversation', 'record'] as const);
        if (scope === 'record' && !seesRecord(state, this.user(user), record)) return 'a record that the owner does not see';
        const target = state.records.get(record);
        const made = await this.ok(user, 'POST', '/access/grants', {
          scope,
          to: [to],
          ...(scope === 'record' ? { record: { kind: record.split(':')[0], id: target?.id } } : { emailId: email.id }),
        });
        const id = made.grants[0]?.id as number;
        if (!state.grants.some((one) => one.id === id))
          state.grants.push({ id, by: user, to, scope, about: scope === 'record' ? record : email.key });
        return `${this.nameOf(user)} lets ${this.nameOf(to)} read ${scope} ${record} ${email.key}`;
      }
      case 'ask': {
        const asker = pick(state.users);
        if (sees(state, asker, email) !== 'exists' || email.keptOut) return 'nothing to ask for';
        const asked = await this.ok(asker.id, 'POST', '/access/requests', { scope: 'email', emailId: email.id });
        const { id, owner: name } = pick(asked.asked as { id: number; owner: string }[]);
        const owner = this.byName(name);
        if (random() < 0.3) {
          await this.ok(owner, 'POST', `/access/requests/${id}/answer`, { answer: 'decline' });
          return `${name} declines ${email.key} to ${this.nameOf(asker.id)}`;
        }
        await this.ok(owner, 'POST', `/access/requests/${id}/answer`, { answer: 'asked' });
        const given = (await this.ok(owner, 'GET', '/access/grants')).given as {
          id: number;
          to: { id: number };
          scope: string;
          emailId: number;
        }[];
        for (const one of given)
          if (one.to.id === asker.id && one.scope === 'email' && one.emailId === email.id && !state.grants.some((it) => it.id === one.id))
            state.grants.push({ id: one.id, by: owner, to: asker.id, scope: 'email', about: email.key });
        return `${name} answers ${this.nameOf(asker.id)}: ${email.key}`;
      }
      case 'withdraw': {
        const what = pick(['word', 'grant', 'seal', 'emergency'] as const);
        if (what === 'word' && state.words.length > 0) {
          const word = pick(state.words);
          if (this.nameOf(word.user) === 'viewer') return 'a viewer';
          await this.ok(word.user, 'DELETE', `/my-mail/words/${word.id}`);
          state.words = state.words.filter((one) => one !== word);
          return `word ${word.does} ${word.about} taken back`;
        }
        if (what === 'grant' && state.grants.length > 0) {
          const grant = pick(state.grants);
          await this.ok(grant.by, 'DELETE', `/access/grants/${grant.id}`);
          state.grants = state.grants.filter((one) => one !== grant);
          return `grant ${grant.about} taken back`;
        }
        if (what === 'seal' && state.seals.length > 0) {
          const seal = pick(state.seals);
          await this.ok(seal.user, 'POST', `/repairs/${seal.id}/undo`);
          state.seals = state.seals.filter((one) => one !== seal);
          return `seal of ${seal.email} undone`;
        }
        if (what === 'emergency' && state.emergencies.length > 0) {
          const emergency = pick(state.emergencies);
          await this.ok(emergency.owner, 'POST', `/emergencies/${emergency.id}/end`);
          state.emergencies = state.emergencies.filter((one) => one !== emergency);
          return 'emergency ended';
        }
        return 'nothing to take back';
      }
      case 'users': {
        const [name, box] = pick([...state.boxes]);
        if (this.nameOf(box.owner) === 'viewer') return 'a viewer’s mailbox';
        box.users = state.users.filter((one) => random() < 0.25 && one.id !== box.owner).map((one) => one.id);
        await this.ok(box.owner, 'PUT', `/mailboxes/${box.id}/settings`, { userIds: box.users });
        changeHands(state, name);
        return `mailbox ${name} used by ${box.users.map((one) => this.nameOf(one)).join(' ')}`;
      }
      case 'pass': {
        const [name, box] = pick([...state.boxes]);
        const next = pick(['rep', 'other', 'lead'] as const);
        await this.ok('admin', 'POST', `/mailboxes/${box.id}/owner`, { ownerId: this.crew.ids[next] });
        box.owner = this.crew.ids[next];
        changeHands(state, name);
        return `mailbox ${name} goes to ${next}`;
      }
      case 'emergency': {
        const of = pick(['rep', 'other', 'lead', 'viewer'] as const);
        const made = await this.ok('admin', 'POST', '/emergencies', {
          ownerId: this.crew.ids[of],
          reason: 'a customer waits for an answer',
          hours: 4,
        });
        if (random() < 0.3) return `emergency for ${of} asked, not confirmed`;
        await this.ok('lead', 'POST', `/emergencies/${made.id}/confirm`);
        state.emergencies.push({ id: made.id, reader: this.crew.ids.admin, owner: this.crew.ids[of] });
        return `emergency for ${of}`;
      }
      case 'deal': {
        const deal = state.records.get(pick(['deal:Outer harbour', 'deal:Reef marks']));
        if (!deal) return 'no deal';
        deal.team = state.users.filter(() => random() < 0.3).map((one) => one.id);
        await this.ok('admin', 'PUT', `/deals/${deal.id}/team`, { members: deal.team });
        return `team of deal ${deal.id}: ${deal.team.map((one) => this.nameOf(one)).join(' ')}`;
      }
      case 'own': {
        const [key, record] = pick([...state.records]);
        record.owner = pick([null, ...state.users.map((one) => one.id)]);
        await this.ok('admin', 'POST', `/records/${key.split(':')[0] ?? ''}/hand-over`, { ids: [record.id], to: record.owner });
        return `${key} goes to ${record.owner === null ? 'nobody' : this.nameOf(record.owner)}`;
      }
      default: {
        state.recordReach = pick(['all', 'team', 'owner'] as const);
        await this.ok('admin', 'PUT', '/workspace', { recordReach: state.recordReach });
        return `records of ${state.recordReach}`;
      }
    }
  }

  private user(id: number): ModelUser {
    const found = this.state.users.find((one) => one.id === id);
    if (!found) throw new Error(`no user ${id}`);
    return found;
  }

  private byName(name: string): number {
    const who = WHO.find((one) => name === `${one} person` || (one === 'admin' && name === 'Ada Admin'));
    if (!who) throw new Error(`nobody is called ${name}`);
    return this.crew.ids[who];
  }

  private async ok(who: Who | number, method: string, path: string, body?: unknown): Promise<Answer['json']> {
    const answer = await this.call(who, method, path, body);
    if (answer.status !== 200)
      throw new Error(`${typeof who === 'number' ? this.nameOf(who) : who} ${method} ${path} ${JSON.stringify(body)}: ${answer.text}`);
    return answer.json;
  }

  private async putLevels(): Promise<void> {
    const { usual, marked } = this.state;
    const put = await changeRulebook(this.server, this.crew.tokens.admin, (rulebook) => {
      rulebook.share.level = usual.level as 'owner' | 'record' | 'everyone';
      rulebook.share.existenceOnly = usual.existenceOnly;
      const then = {
        do: marked.level,
        ...(marked.level === 'teams' ? { teams: marked.teams } : {}),
        ...(marked.level === 'owner' ? {} : { existenceOnly: marked.existenceOnly }),
      };
      rulebook.share.rules = [
        {
          id: 'zeta',
          name: 'zeta',
          note: '',
          on: true,
          appliesTo: { mailboxes: [], users: [] },
          when: { all: [{ fact: 'subject', test: { contains: ['zeta'] } }] },
          then,
        },
      ] as never;
    });
    if (put.status !== 200) throw new Error(put.text);
    await decideAll(this.server, this.crew.tokens.admin);
  }

  /** Waits until nothing is left to decide. */
  private async settled(): Promise<void> {
    for (;;) {
      const rows = await this.server.services.database.workerPool.query(
        'SELECT FROM emails WHERE decided_at IS NULL OR outcome IS NULL LIMIT 1',
      );
      const jobs = await this.server.services.database.workerPool.query(
        `SELECT FROM pgboss.job WHERE state IN ('created', 'active', 'retry') AND name LIKE 'decide%' LIMIT 1`,
      );
      if (rows.rowCount === 0 && jobs.rowCount === 0) return;
      await pause(15);
    }
  }

  /** Every difference between what the ways out give and what the model says; empty when all is right. */
  async differences(random: () => number): Promise<string[]> {
    const found: string[] = [];
    await Promise.all(
      this.state.users.map((user) => this.compareFor(user, random, (text) => found.push(`${this.nameOf(user.id)}: ${text}`))),
    );
    return found;
  }

  private async compareFor(user: ModelUser, random: () => number, differs: (text: string) => void): Promise<void> {
    const { state } = this;
    const get = (path: string): Promise<Answer> => this.call(user.id, 'GET', path);
    const sight = new Map<string, Sees>(state.emails.map((one) => [one.key, sees(state, user, one)]));
    const knows = state.emails.filter((one) => sight.get(one.key) !== 'nothing');
    const reads = state.emails.filter((one) => sight.get(one.key) === 'reads');
    const same = (what: string, given: unknown, wanted: unknown): void => {
      const [one, other] = [JSON.stringify(given), JSON.stringify(wanted)];
      if (one !== other) differs(`${what}: ${one}, and should be ${other}`);
    };
    const keys = (list: readonly ModelEmail[]): string[] => list.map((one) => one.key).sort();
    const keyOf = (id: number): string => state.emails.find((one) => one.id === id)?.key ?? `unknown ${id}`;

    const register = (await get('/emails?limit=200')).json;
    same('register', register.emails.map((one: { id: number }) => keyOf(one.id)).sort(), keys(knows));
    same('register total', register.total, knows.length);
    same(
      'readable in the register',
      register.emails
        .filter((one: { content: unknown }) => one.content !== null)
        .map((one: { id: number }) => keyOf(one.id))
        .sort(),
      keys(reads),
    );
    for (const row of register.emails as { id: number; filings: { kind: string; name: string }[] }[]) {
      const email = state.emails.find((one) => one.id === row.id);
      if (email)
        same(
          `filings of ${email.key}`,
          row.filings.map((one) => `${one.kind}:${one.name}`).sort(),
          this.filingsFor(user, email, sight.get(email.key) ?? 'nothing'),
        );
    }
    // The other ways out by turns, so that many worlds can be compared.
    const ways: (() => Promise<void>)[] = [
      async () => {
        same('line', (await get('/line')).json.came, knows.length);
        same('search for all', (await get('/search?text=tide')).json.emailTotal, reads.length);
      },
      async () => {
        const told = lines((await get('/export/decisions')).text).map((one) => one.messageId);
        same('export of decisions', told.sort(), keys(knows));
        const exported = (await get('/export/mail')).text;
        same('export of mail', keys(state.emails.filter((one) => exported.includes(`token${one.key} `))), keys(reads));
      },
      async () => {
        const email = state.emails[Math.floor(random() * state.emails.length)];
        if (!email) return;
        const wanted = sight.get(email.key) ?? 'nothing';
        const detail = await get(`/emails/${email.id}`);
        same(`detail of ${email.key}`, detail.status === 404 ? 'nothing' : detail.json.content === null ? 'exists' : 'reads', wanted);
        if (wanted !== 'reads' && detail.text.includes(`token${email.key}`)) differs(`the text of ${email.key} leaks`);
        same(`source of ${email.key}`, (await get(`/emails/${email.id}/source`)).status, wanted === 'reads' ? 200 : 404);
        same(`eyes of ${email.key}`, (await get(`/emails/${email.id}/eyes`)).status, wanted === 'nothing' ? 404 : 200);
        same(`search for ${email.key}`, (await get(`/search?text=token${email.key}`)).json.emailTotal, wanted === 'reads' ? 1 : 0);
      },
      async () => {
        const person = [IDA, KIM, OLA][Math.floor(random() * 3)] ?? IDA;
        const total = (await get(`/emails?person=${person}`)).json.total;
        same(`mail with ${person}`, total, reads.filter((one) => one.people.includes(person)).length);
        if (user.role === 'admin') await this.compareAudit(same);
      },
      () => this.compareRecords(user, sight, random, same),
      () => this.compareEyes(user, same),
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
      const listed = (await this.call(user.id, 'GET', `/records/${kind}?limit=50`)).json;
      same(`list of ${kind}s`, listed.records.map((one: { id: number }) => one.id).sort(), wanted.map(([, one]) => one.id).sort());
    }
    for (const [key, record] of [...state.records].filter(() => random() < 0.34)) {
      const [kind = ''] = key.split(':');
      const detail = await this.call(user.id, 'GET', `/records/${kind}/${record.id}`);
      const seen = seesRecord(state, user, key);
      same(`record ${key}`, detail.status, seen ? 200 : 404);
      if (!seen) continue;
      const under = state.emails.filter((email) => {
        const filings = this.filingsFor(user, email, sight.get(email.key) ?? 'nothing');
        const own = filings.includes(key);
        const byDeal = kind === 'account' && filings.some((one) => one.startsWith('deal:') && state.records.get(one)?.account === key);
        return sight.get(email.key) !== 'nothing' && (own || byDeal);
      });
      same(`emails of ${key}`, detail.json.emails, under.length);
      const history = (await this.call(user.id, 'GET', `/records/${kind}/${record.id}/history`)).json;
      const shown = (history.conversations as { emails: { id: number }[] }[]).flatMap((one) => one.emails.map((it) => it.id));
      const extra = shown.filter(
        (id) => !under.some((one) => one.id === id) && sight.get(state.emails.find((one) => one.id === id)?.key ?? '') === 'nothing',
      );
      same(`history of ${key} shows what is not known`, extra, []);
    }
  }

  /** “Whose eyes?”, asked by each owner, tells of everybody what the model says. */
  private async compareEyes(user: ModelUser, same: (what: string, given: unknown, wanted: unknown) => void): Promise<void> {
    const mine = this.state.emails.filter((one) => (this.state.owners.get(one.key) ?? []).includes(user.id)).slice(0, 2);
    for (const email of mine) {
      const { eyes } = (await this.call(user.id, 'GET', `/emails/${email.id}/eyes`)).json as {
        eyes: { user: { id: number }; reads: boolean }[];
      };
      const wanted = this.state.users
        .map((one) => [one.id, sees(this.state, one, email)] as const)
        .filter(([, sight]) => sight !== 'nothing')
        .map(([id]) => id)
        .sort();
      same(`eyes on ${email.key}`, eyes.map((one) => one.user.id).sort(), wanted);
    }
  }

  private async compareAudit(same: (what: string, given: unknown, wanted: unknown) => void): Promise<void> {
    const { entries } = (await this.call('admin', 'GET', '/audit?limit=500')).json as {
      entries: { emailId: number | null; about: string }[];
    };
    const hidden = new Set(
      this.state.emails.filter((one) => sees(this.state, this.user(this.crew.ids.admin), one) === 'nothing').map((one) => one.id),
    );
    same('audit entries about what is sealed', entries.filter((one) => one.emailId !== null && hidden.has(one.emailId)).length, 0);
    same('audit entries that tell of seals', entries.filter((one) => one.about.includes('seal')).length, 0);
  }

  /** A trial by an administrator: its numbers are of what is not sealed. */
  async trialDifferences(): Promise<string[]> {
    const visible = this.state.emails.filter((one) => !isSealed(this.state, one)).length;
    const made = await this.ok('admin', 'POST', '/trials', { name: 'sight', mailboxes: [] });
    for (;;) {
      const trial = await this.ok('admin', 'GET', `/trials/${made.id}`);
      if (['queued', 'running'].includes(trial.state)) {
        await pause(20);
        continue;
      }
      const total = Number(trial.total);
      await this.call('admin', 'DELETE', `/trials/${made.id}`);
      return total === visible ? [] : [`a trial counts ${total} emails, and should ${visible}`];
    }
  }

  remove(): Promise<void> {
    return this.server.remove();
  }
}

function lines(text: string): { messageId: string }[] {
  return text
    .split('\n')
    .filter(Boolean)
    .map((one) => JSON.parse(one) as { messageId: string });
}

async function firstState(server: TestServer, crew: Crew, mail: readonly Made[], teams: ModelState['teams']): Promise<ModelState> {
  const rows = await owner(server.ownerUrl, `SELECT e.id, e.message_id, e.outcome FROM emails e`);
  const filed = lines((await server.call('GET', '/export/decisions', { token: crew.tokens.admin })).text) as unknown as {
    messageId: string;
    filings: { kind: string; name: string }[];
  }[];
  const emails: ModelEmail[] = mail.map((one) => {
    const row = rows.find((it) => it.message_id === one.id);
    return {
      key: one.id,
      id: Number(row?.id),
      conversation: one.conversation,
      boxes: one.boxes,
      people: one.people,
      filings: (filed.find((it) => it.messageId === one.id)?.filings ?? []).map((it) => `${it.kind}:${it.name}`),
      keptOut: row?.outcome === 'kept out',
      marked: (one.subject ?? '').includes('zeta'),
    };
  });
  const boxes = await owner(server.ownerUrl, `SELECT id, split_part(address, '@', 1) AS name, owner_id FROM mailboxes`);
  const records: ModelState['records'] = new Map();
  for (const [kind, accountOf] of [
    ['account', 'NULL'],
    ['contact', 'account_id'],
    ['deal', 'account_id'],
  ] as const) {
    const found = await owner(
      server.ownerUrl,
      `SELECT r.id, r.name, r.owner_id, (SELECT 'account:' || a.name FROM accounts a WHERE a.id = ${accountOf}) AS account, ${kind === 'deal' ? `(SELECT array_agg(p.kind || ':' || c.name) FROM deal_people p JOIN contacts c ON c.id = p.person_id WHERE p.deal_id = r.id)` : 'NULL'} AS people FROM ${kind}s r`,
    );
    for (const row of found)
      records.set(`${kind}:${String(row.name)}`, {
        id: Number(row.id),
        owner: row.owner_id === null ? null : Number(row.owner_id),
        account: row.account === null ? null : String(row.account),
        team: [],
        people: (row.people as string[] | null) ?? [],
      });
  }
  const state: ModelState = {
    users: WHO.map((who) => ({ id: crew.ids[who], role: who === 'other' ? 'rep' : who })),
    emails,
    boxes: new Map(boxes.map((row) => [String(row.name), { id: Number(row.id), owner: Number(row.owner_id), users: [] }])),
    teams,
    records,
    usual: { level: 'owner', teams: [], existenceOnly: false },
    marked: { level: 'owner', teams: [], existenceOnly: false },
    words: [],
    grants: [],
    seals: [],
    emergencies: [],
    recordReach: 'all',
    owners: new Map(),
  };
  for (const email of emails)
    state.owners.set(
      email.key,
      email.boxes.map((box) => crew.ids[box as Who]),
    );
  return state;
}
