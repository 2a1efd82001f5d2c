import type { CompiledRulebook, DecisionFacts, MailClass, Participant, Sensitivity } from '@fulvet/core';
import { isOwnListId, RULES, SENSITIVITIES, visibilityKey } from '@fulvet/core';
import type { SQL } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type pg from 'pg';
import { copyRows } from '../../base/db/copyRows';
import type { Database, Tx } from '../../base/db/database';
import type { FactNeeds, LeanRow } from './leanRow';
import { GROUP, leanQuery, leanRow, PART } from './leanRow';
import type { StoredEmail } from './loadFacts';
import { loadFacts } from './loadFacts';
import type { OwnKeepOuts } from './ownKeepOuts';
import { keptOutByOwners, loadOwnKeepOuts } from './ownKeepOuts';
import type { ByHand, Places } from './places';
import { loadByHand, loadPlaces } from './places';
import type { StandingWords } from './sharingChoices';
import { loadSharingChoices, wordsOn } from './sharingChoices';

const NONE: readonly never[] = [];

/** Of an email that was kept out: whether a rulebook keeps it out again in any case, so that its source need not be read. */
type StaysOut = (row: { mailClass: MailClass; proof: { header: string; value: string } | null; rule: string | null }) => boolean;

/** An email that was read; a settled one needs no decision. */
export interface ReadEmail {
  email: StoredEmail;
  settled: boolean;
}

/** Few at a time: what lives shortly costs the least. */
const FETCHED = 250;
/** Shorter texts are copied when they are cut out. */
const SHORT = 13;
const ROLES: readonly Participant['role'][] = ['from', 'sender', 'replyTo', 'to', 'cc', 'bcc', 'claimed'];
/** The widest first. */
const TAKE_INS = ['rules', 'known', 'byHand'] as const;

/** Where an email lies, and whose it is. */
interface Place extends Pick<
  DecisionFacts,
  'folders' | 'mailboxes' | 'users' | 'teams' | 'ownTakeIn' | 'sharedByRules' | 'atFilingAddressOnly'
> {
  holders: number[];
}

export interface LeanOptions {
  needs: FactNeeds;
  staysOut?: StaysOut;
  /** The emails stay in memory: texts that recur are held once, so that a million of them fit. */
  toKeep: boolean;
}

/**
 * Loads facts for walking over very much mail: the same facts as {@link loadFacts} gives, without the decisions that stand and without what
 * only storing needs.
 */
export class LeanReader {
  private readonly texts = new Map<string, string>();
  private readonly people = new Map<string, Participant>();
  private readonly casts = new Map<string, readonly Participant[]>();
  private readonly wheres = new Map<string, Place>();
  private readonly lists = new Map<string, readonly string[]>();

  private constructor(
    private readonly pool: pg.Pool,
    private readonly blobs: Sources,
    private readonly places: Places,
    private readonly needs: FactNeeds,
    private readonly toKeep: boolean,
    private readonly staysOut: StaysOut,
    private readonly byHand: ByHand,
    private readonly keepOuts: OwnKeepOuts,
    private readonly words: StandingWords,
  ) {}

  static async open(
    { workerPool }: Database,
    tx: Tx,
    blobs: Sources,
    { needs, toKeep, staysOut = () => false }: LeanOptions,
  ): Promise<LeanReader> {
    const [places, byHand] = [await loadPlaces(tx), await loadByHand(tx)];
    return new LeanReader(
      workerPool,
      blobs,
      places,
      needs,
      toKeep,
      staysOut,
      byHand,
      await loadOwnKeepOuts(tx),
      await loadSharingChoices(tx),
    );
  }

  /**
   * Emails in order of date, in batches, as `tx` sees them. Those with gestures, and kept-out ones whose source has to be read, come the longer way.
   *
   * @param where a condition on `e`, without parameters
   */
  async *stream(tx: Tx, where: SQL, batch = FETCHED): AsyncGenerator<ReadEmail[]> {
    for await (const rows of copyRows(this.pool, tx, leanQuery(where, this.needs), batch)) yield await this.emailsOf(tx, rows.map(leanRow));
  }

  private async emailsOf(tx: Tx, rows: readonly LeanRow[]): Promise<ReadEmail[]> {
    const found = rows.map((row) => {
      const keptOut = row.outcome === 'kept out' && row.subject === null;
      const rule = keptOut ? ruleOfFirstStep(row.steps) : null;
      const special = this.byHand.emails.has(row.id) || this.byHand.conversations.has(row.conversationId);
      const settled = keptOut && !special && this.staysOut({ mailClass: row.mailClass, proof: proofOf(row), rule });
      return { row, settled, again: !settled && (special || row.subject === null) };
    });
    const again = found.filter((item) => item.again).map((item) => item.row.id);
    const whole = again.length > 0 ? await loadFacts(tx, this.blobs, again, this.needs.text) : [];
    const byId = new Map(whole.map((email) => [email.facts.id, email]));
    return found.flatMap(({ row, settled }) => {
      const email = byId.get(row.id) ?? this.emailOf(row);
      return [{ email, settled }];
    });
  }

  private emailOf(row: LeanRow): StoredEmail {
    const place = this.placeOf(row.held ?? '', row.owners);
    const participants = row.people === null ? NONE : this.participants(row.people);
    return {
      facts: {
        id: row.id,
        at: row.at,
        subject: this.toKeep ? ownText(row.subject ?? '') : (row.subject ?? ''),
        text: row.body ?? '',
        codes: partsOf(row.codes),
        wordPairs: this.toKeep ? ownText(row.wordPairs ?? '') : (row.wordPairs ?? ''),
        attachments: partsOf(row.attachments),
        size: row.size,
        senderCheck: row.senderCheck,
        sensitivity: SENSITIVITIES.find((sensitivity): sensitivity is Sensitivity => sensitivity === row.sensitivity) ?? null,
        mailClass: row.mailClass,
        classProof: proofOf(row, (text) => this.shared(text)),
        participants,
        gestures: NONE,
        pins: NONE,
        ownKeptOut: keptOutByOwners(place.holders, participants, this.keepOuts),
        sharingChoices: wordsOn(
          { id: row.id, conversationId: row.conversationId, at: row.at, ownerIds: place.holders, participants },
          this.words,
        ),
        folders: place.folders,
        mailboxes: place.mailboxes,
        users: place.users,
        teams: place.teams,
        ownTakeIn: place.ownTakeIn,
        sharedByRules: place.sharedByRules,
        atFilingAddressOnly: place.atFilingAddressOnly,
      },
      conversationId: row.conversationId,
      ownerIds: place.holders,
      ownerId: null,
      restored: null,
      before: {
        outcome: row.outcome,
        direction: row.direction,
        visibility:
          row.sharedTeams === null && !row.existenceOnly
            ? row.visibility
            : this.shared(
                visibilityKey({ visibility: row.visibility, sharedTeams: partsOf(row.sharedTeams), existenceOnly: row.existenceOnly }),
              ),
        docket: this.shared(row.steps ?? 'null'),
        filings: this.shared(row.filings ?? ''),
        decided: row.decided,
      },
    };
  }

  /** Participants as they were packed; the answers of a conversation often have the same. */
  private participants(packed: string): readonly Participant[] {
    const known = this.toKeep ? this.casts.get(packed) : undefined;
    if (known) return known;
    const made = packed.split(GROUP).map((part) => this.participant(part));
    if (made.length > 1) made.sort((first, second) => ROLES.indexOf(first.role) - ROLES.indexOf(second.role));
    if (this.toKeep) this.casts.set(ownText(packed), made);
    return made;
  }

  private participant(packed: string): Participant {
    const known = this.people.get(packed);
    if (known) return known;
    const [role = '', address = '', domain = '', ...name] = packed.split(PART);
    const made: Participant = {
      role: role as Participant['role'],
      address: this.once(address),
      domain: this.once(domain),
      name: this.once(name.join(PART)),
    };
    this.people.set(ownText(packed), made);
    return made;
  }

  private placeOf(held: string, owners: string): Place {
    const key = `${owners} ${held}`;
    const known = this.wheres.get(key);
    if (known) return known;
    const { mailboxes, users, teams } = this.places;
    const holders = owners.split(',').filter(Boolean).map(Number);
    const pairs = held === '' ? [] : held.split(GROUP).map((part) => part.split(PART));
    const boxes = [...new Set(pairs.map(([id]) => Number(id)))].flatMap((id) => mailboxes.get(id) ?? []);
    const sorted = [...holders].sort((first, second) => first - second);
    const place: Place = {
      holders,
      folders: this.list(pairs.map(([, folder = '']) => folder)),
      mailboxes: this.list(boxes.map((box) => box.address)),
      users: this.list(
        sorted.flatMap((id) => users.get(id) ?? []),
        false,
      ),
      teams: this.list(holders.flatMap((id) => teams.get(id) ?? [])),
      ownTakeIn: TAKE_INS.find((value) => boxes.some((box) => box.takeIn === value)) ?? 'rules',
      sharedByRules: boxes.length === 0 || boxes.some((box) => box.byRules),
      atFilingAddressOnly: boxes.length > 0 && boxes.every((box) => box.filing),
    };
    this.wheres.set(ownText(key), place);
    return place;
  }

  /** The texts, each once, as one list for all emails that have the same. */
  private list(texts: readonly string[], sorted = true): readonly string[] {
    if (texts.length === 0) return NONE;
    const unique = texts.length === 1 ? texts : [...new Set(texts)];
    const list = sorted && unique.length > 1 ? [...unique].sort() : unique;
    const key = list.join(GROUP);
    const known = this.lists.get(key);
    if (known) return known;
    this.lists.set(key, list);
    return list;
  }

  private shared(text: string): string {
    return this.toKeep ? this.once(text) : text;
  }

  private once(text: string): string {
    const known = this.texts.get(text);
    if (known !== undefined) return known;
    const own = ownText(text);
    this.texts.set(own, own);
    return own;
  }
}

const partsOf = (joined: string | null): readonly string[] => (joined === null ? NONE : joined.split(PART).map(ownText));

/** A text of its own: one that was cut out of a longer one would keep that in memory. */
const ownText = (text: string): string => (text.length < SHORT ? text : Buffer.from(text, 'utf16le').toString('utf16le'));

function proofOf({ classHeader, classValue }: LeanRow, shared = (text: string): string => text): DecisionFacts['classProof'] {
  return classHeader === null ? null : { header: shared(classHeader), value: shared(classValue ?? '') };
}

function ruleOfFirstStep(steps: string | null): string | null {
  const found = steps === null ? null : (JSON.parse(steps) as { rule: string | null }[])[0];
  return found?.rule ?? null;
}

/** Machine mail that stays out by its kind: no rule goes before that, so nothing else of it is asked. */
export function staysOutByKind(rulebook: CompiledRulebook): StaysOut {
  const noRules = rulebook.source.keepOut.rules.every((rule) => !rule.on);
  return ({ mailClass, proof, rule }) =>
    noRules && rule === RULES.machineMail && rulebook.keepsOutClass(mailClass) && !isOwnListId(proof, rulebook);
}
