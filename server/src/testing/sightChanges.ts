import { routeTo } from './routeTo';
import type { Change } from '../base/live/changes';
import { announce } from '../base/live/changes';
import { setTimeout as pause } from 'node:timers/promises';
import type { Level, ModelEmail, ModelState } from './sightModel';
import { changeHands, isSealed, releaseUnsealed, sees, seesRecord } from './sightModel';
import { SightActs } from './sightActs';

const MARK = 987_654_321;
const MOST_FORGED = 6;
const LEVELS: readonly Level[] = ['owner', 'record', 'teams', 'everyone'];

/**
 * An installation whose settings of sight are changed at random, through the API as people do, beside a plain model of who may see what.
 */
export class ChangingWorld extends SightActs {
  /** What open pages were told during the last change, and of which records each member may have been told. */
  protected heard: Extract<Change, { kind: 'mail' }>[] = [];
  protected mayHear = new Map<number, Set<string>>();

  /** Some random changes, each made through the API and in the model. @returns what was done, in words */
  async change(random: () => number, steps: number): Promise<string[]> {
    const done: string[] = [];
    const { changes, database } = this.server.services;
    this.heard = [];
    this.mayHear = new Map(this.state.users.map((user) => [user.id, new Set<string>()]));
    let marked = false;
    const deaf = changes.hear((change) => {
      if (change.kind === 'mail') this.heard.push(change);
      if (change.kind === 'wake' && change.id === MARK) marked = true;
    });
    this.noteKnown();
    for (let at = 0; at < steps; at += 1) {
      const sealed = new Set(this.state.emails.filter((email) => isSealed(this.state, email)).map((email) => email.key));
      done.push(await this.step(random));
      releaseUnsealed(this.state, sealed);
      this.noteKnown();
    }
    await this.settled();
    // Told in order: when this comes, all before it has come.
    await announce(database.worker, { kind: 'wake', id: MARK });
    while (!marked) await pause(5);
    deaf();
    return done;
  }

  /** Under which records each member knows of emails now; of these they may be told while things change. */
  private noteKnown(): void {
    for (const user of this.state.users)
      for (const email of this.state.emails)
        if (sees(this.state, user, email) !== 'nothing')
          for (const key of email.filings)
            this.mayHear.get(user.id)?.add(`${key.split(':')[0] ?? ''}:${this.state.records.get(key)?.id ?? 0}`);
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
      ...(state.emails.length < this.mail.length + MOST_FORGED ? ['forge'] : []),
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
        // The step's default knows no teams.
        state.usual = usual.level === 'teams' ? { level: 'record', teams: [], existenceOnly: usual.existenceOnly } : usual;
        state.marked = level();
        await this.putLevels();
        return `rules: ${JSON.stringify(state.usual)} ${JSON.stringify(state.marked)}`;
      }
      case 'teams': {
        const name = pick(['coast', 'rivers']);
        const team = state.teams.get(name);
        if (!team) return 'no team';
        team.members = state.users.filter(() => random() < 0.4).map((item) => item.id);
        await this.ok('admin', routeTo('setTeamMembers', { id: team.id }), { members: team.members });
        return `team ${name}: ${team.members.join(' ')}`;
      }
      case 'share':
      case 'seal': {
        if (!mayRepair) return 'no one to say a word';
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
        const made = await this.ok(user, routeTo('addSharingChoice'), {
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
        if (!mayRepair) return 'no one to seal';
        const whole = random() < 0.5;
        const made = await this.ok(user, routeTo('repair'), { emails: [email.id], reach: whole ? 'conversation' : 'email', seal: true });
        state.seals.push({ id: made.id, user, email: email.key, whole });
        return `${this.nameOf(user)} seals ${email.key} ${whole ? 'with its conversation' : 'alone'} by hand`;
      }
      case 'grant': {
        const to = pick(state.users.filter((item) => item.id !== user)).id;
        if (!mayRepair || to === user) return 'no one to share';
        const record = pick(email.filings.length > 0 ? email.filings : ['']);
        const scope =
          record === '' || isSealed(state, email)
            ? pick(['email', 'conversation'] as const)
            : pick(['email', 'conversation', 'record'] as const);
        if (scope === 'record' && !seesRecord(state, this.user(user), record)) return 'a record that the owner does not see';
        const target = state.records.get(record);
        const made = await this.ok(user, routeTo('addGrants'), {
          scope,
          to: [to],
          ...(scope === 'record' ? { record: { kind: record.split(':')[0], id: target?.id } } : { emailId: email.id }),
        });
        const id = made.grants[0]?.id as number;
        if (!state.grants.some((grant) => grant.id === id))
          state.grants.push({ id, by: user, to, scope, about: scope === 'record' ? record : email.key });
        return `${this.nameOf(user)} lets ${this.nameOf(to)} read ${scope} ${record} ${email.key}`;
      }
      case 'ask': {
        const asker = pick(state.users);
        if (sees(state, asker, email) !== 'exists' || email.keptOut) return 'nothing to ask for';
        const asked = await this.ok(asker.id, routeTo('askAccess'), { scope: 'email', emailId: email.id });
        const { id, owner: name } = pick(asked.asked as { id: number; owner: string }[]);
        const owner = this.byName(name);
        if (random() < 0.3) {
          await this.ok(owner, routeTo('answerAccessRequest', { id }), { answer: 'decline' });
          return `${name} declines ${email.key} to ${this.nameOf(asker.id)}`;
        }
        await this.ok(owner, routeTo('answerAccessRequest', { id }), { answer: 'asked' });
        const given = (await this.ok(owner, routeTo('listGrants'))).given as {
          id: number;
          to: { id: number };
          scope: string;
          emailId: number;
        }[];
        for (const item of given)
          if (
            item.to.id === asker.id &&
            item.scope === 'email' &&
            item.emailId === email.id &&
            !state.grants.some((it) => it.id === item.id)
          )
            state.grants.push({ id: item.id, by: owner, to: asker.id, scope: 'email', about: email.key });
        return `${name} answers ${this.nameOf(asker.id)}: ${email.key}`;
      }
      case 'withdraw': {
        const what = pick(['word', 'grant', 'seal', 'emergency'] as const);
        if (what === 'word' && state.words.length > 0) {
          const word = pick(state.words);
          if (this.nameOf(word.user) === 'viewer') return 'a viewer';
          await this.ok(word.user, routeTo('removeSharingChoice', { id: word.id }));
          state.words = state.words.filter((item) => item !== word);
          return `word ${word.does} ${word.about} removed`;
        }
        if (what === 'grant' && state.grants.length > 0) {
          const grant = pick(state.grants);
          await this.ok(grant.by, routeTo('withdrawGrant', { id: grant.id }));
          state.grants = state.grants.filter((item) => item !== grant);
          return `grant ${grant.about} removed`;
        }
        if (what === 'seal' && state.seals.length > 0) {
          const seal = pick(state.seals);
          await this.ok(seal.user, routeTo('undoRepair', { id: seal.id }));
          state.seals = state.seals.filter((item) => item !== seal);
          return `seal of ${seal.email} undone`;
        }
        if (what === 'emergency' && state.emergencies.length > 0) {
          const emergency = pick(state.emergencies);
          await this.ok(emergency.owner, routeTo('endEmergency', { id: emergency.id }));
          state.emergencies = state.emergencies.filter((item) => item !== emergency);
          return 'emergency ended';
        }
        return 'nothing to take back';
      }
      case 'users': {
        const [name, box] = pick([...state.boxes]);
        if (this.nameOf(box.owner) === 'viewer') return 'a viewer’s mailbox';
        box.users = state.users.filter((item) => random() < 0.25 && item.id !== box.owner).map((item) => item.id);
        await this.ok(box.owner, routeTo('putMailboxSettings', { id: box.id }), { userIds: box.users });
        changeHands(state, name);
        return `mailbox ${name} used by ${box.users.map((item) => this.nameOf(item)).join(' ')}`;
      }
      case 'pass': {
        const [name, box] = pick([...state.boxes]);
        const next = pick(['rep', 'other', 'manager'] as const);
        await this.ok('admin', routeTo('passOnMailbox', { id: box.id }), { ownerId: this.crew.ids[next] });
        box.owner = this.crew.ids[next];
        changeHands(state, name);
        return `mailbox ${name} goes to ${next}`;
      }
      case 'emergency': {
        const of = pick(['rep', 'other', 'manager', 'viewer'] as const);
        const made = await this.ok('admin', routeTo('askEmergency'), {
          ownerId: this.crew.ids[of],
          reason: 'a customer waits for an answer',
          hours: 4,
        });
        if (random() < 0.3) return `emergency for ${of} asked, not confirmed`;
        await this.ok('manager', routeTo('confirmEmergency', { id: made.id }));
        state.emergencies.push({ id: made.id, reader: this.crew.ids.admin, owner: this.crew.ids[of] });
        return `emergency for ${of}`;
      }
      case 'forge':
        return this.forge(email, pick([...state.boxes.keys()]), Math.floor(random() * 4));
      case 'deal': {
        const deal = state.records.get(pick(['deal:Outer harbour', 'deal:Reef marks']));
        if (!deal) return 'no deal';
        deal.team = state.users.filter((item) => random() < 0.3 && item.role !== 'admin').map((item) => item.id);
        await this.ok('admin', routeTo('setDealTeam', { id: deal.id }), { members: deal.team });
        return `team of deal ${deal.id}: ${deal.team.map((value) => this.nameOf(value)).join(' ')}`;
      }
      case 'own': {
        const [key, record] = pick([...state.records]);
        record.owner = pick([null, ...state.users.filter((item) => item.role !== 'admin').map((item) => item.id)]);
        await this.ok('admin', routeTo('handOver', { kind: key.split(':')[0] ?? '' }), { ids: [record.id], to: record.owner });
        return `${key} goes to ${record.owner === null ? 'nobody' : this.nameOf(record.owner)}`;
      }
      default: {
        state.recordReach = pick(['all', 'team', 'owner'] as const);
        await this.ok('admin', routeTo('putWorkspace'), { recordReach: state.recordReach });
        return `records of ${state.recordReach}`;
      }
    }
  }
}
