import { RULES } from '@fulvet/core';
import type { CompiledRulebook, DecisionFacts, Direction, MailClass, Participant, Sensitivity, ShareLevel } from '@fulvet/core';
import { SENSITIVITIES, visibilityKey } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { BlobStore } from '../blobs/blobStore';
import type { Tx } from '../db/database';
import type { StoredEmail } from './loadFacts';
import { loadFacts } from './loadFacts';
import type { OwnKeepOuts } from './ownKeptOut';
import { keptOutByOwners, loadOwnKeepOuts } from './ownKeptOut';
import type { StandingWords } from './ownWords';
import { loadOwnWords, wordsOn } from './ownWords';

const NONE: readonly never[] = [];

/** What a rulebook asks of emails beyond what every decision needs. */
export interface FactNeeds {
  text: boolean;
  attachments: boolean;
}

/** Of an email that was kept out: whether a rulebook keeps it out again in any case, so that its source need not be read. */
type StaysOut = (row: { mailClass: MailClass; rule: string | null }) => boolean;

/** An email that was read; a settled one needs no decision. */
export interface ReadEmail {
  email: StoredEmail;
  settled: boolean;
}

const FETCHED = 2000;
/** The widest first. */
const TAKE_INS = ['rules', 'known', 'byHand'] as const;

/** What is one string an email instead of many rows. */
const JOINS = sql`LEFT JOIN email_contents c ON c.email_id = e.id
  LEFT JOIN LATERAL (SELECT string_agg(q.role || chr(31) || q.address || chr(31) || q.domain || chr(31) || q.name, chr(30) ORDER BY array_position(ARRAY['from','sender','replyTo','to','cc','bcc'], q.role), q.position) AS people FROM participants q WHERE q.email_id = e.id) p ON true
  LEFT JOIN LATERAL (SELECT string_agg(kind || ':' || record_id || ':' || rule, ',' ORDER BY kind, record_id) AS filings FROM filings WHERE email_id = e.id) f ON true
  LEFT JOIN LATERAL (SELECT string_agg(s.mailbox_id || chr(31) || s.folder, chr(30) ORDER BY s.mailbox_id, s.folder) AS held FROM sightings s WHERE s.email_id = e.id) h ON true`;

interface LeanRow {
  [column: string]: unknown;
  id: number;
  at: number;
  mail_class: MailClass;
  class_header: string | null;
  class_value: string | null;
  conversation_id: number;
  owners: string | null;
  outcome: string | null;
  direction: Direction | null;
  visibility: ShareLevel;
  shared_teams: string[] | null;
  existence_only: boolean;
  decided: boolean;
  size: number;
  sensitivity: string | null;
  stops: string | null;
  subject: string | null;
  codes: string[] | null;
  body: string | null;
  people: string | null;
  filings: string | null;
  held: string | null;
  attachments: string[] | null;
  special: boolean;
}

/** Where an email lies, and whose it is. */
interface Place extends Pick<
  DecisionFacts,
  'folders' | 'mailboxes' | 'users' | 'teams' | 'ownTakeIn' | 'sharedByRules' | 'atFilingAddressOnly'
> {
  holders: number[];
}

/** Where emails lie and whose they are: few rows, held once instead of being joined to every email. */
interface Places {
  mailboxes: ReadonlyMap<number, { address: string; byRules: boolean; filing: boolean; takeIn: DecisionFacts['ownTakeIn'] }>;
  users: ReadonlyMap<number, string>;
  teams: ReadonlyMap<number, readonly string[]>;
}

/**
 * Loads facts for walking over very much mail: the same facts as {@link loadFacts} gives, without the dockets that stand and without what
 * only storing needs. Texts that recur are held once, so that a million emails fit into memory.
 */
export class LeanReader {
  private readonly texts = new Map<string, string>();
  private readonly people = new Map<string, Participant>();
  private readonly casts = new Map<string, readonly Participant[]>();
  private readonly wheres = new Map<string, Place>();
  private readonly lists = new Map<string, readonly string[]>();

  private constructor(
    private readonly blobs: BlobStore,
    private readonly places: Places,
    private readonly needs: FactNeeds,
    private readonly staysOut: StaysOut,
    /** Conversations with decisions by hand. */
    private readonly pinned: number[],
    private readonly keepOuts: OwnKeepOuts,
    private readonly words: StandingWords,
  ) {}

  static async open(tx: Tx, blobs: BlobStore, needs: FactNeeds, staysOut: StaysOut = () => false): Promise<LeanReader> {
    const mailboxes = await tx.execute<{
      id: number;
      address: string;
      by_rules: boolean;
      filing: boolean;
      take_in: DecisionFacts['ownTakeIn'];
    }>(sql`SELECT id, address, share = 'rules' AS by_rules, kind = 'filing' AS filing, take_in FROM mailboxes`);
    const users = await tx.execute<{ id: number; email: string; teams: string[] | null }>(
      sql`SELECT u.id, lower(u.email) AS email, (SELECT array_agg(DISTINCT lower(t.name)) FROM team_members m JOIN teams t ON t.id = m.team_id WHERE m.user_id = u.id) AS teams FROM users u`,
    );
    const places: Places = {
      mailboxes: new Map(
        mailboxes.rows.map((row) => [row.id, { address: row.address, byRules: row.by_rules, filing: row.filing, takeIn: row.take_in }]),
      ),
      users: new Map(users.rows.map((row) => [row.id, row.email])),
      teams: new Map(users.rows.flatMap((row) => (row.teams ? [[row.id, row.teams] as const] : []))),
    };
    const pinned = await tx.execute<{ id: number }>(
      sql`SELECT DISTINCT e.conversation_id AS id FROM pins p JOIN emails e ON e.id = p.email_id WHERE p.released_at IS NULL`,
    );
    return new LeanReader(
      blobs,
      places,
      needs,
      staysOut,
      pinned.rows.map((row) => row.id),
      await loadOwnKeepOuts(tx),
      await loadOwnWords(tx),
    );
  }

  /** Emails in the order of the ids. Those with gestures, and kept-out ones whose source has to be read, come the longer way. */
  async read(tx: Tx, ids: readonly number[]): Promise<ReadEmail[]> {
    const { rows } = await tx.execute<LeanRow>(
      sql`SELECT ${this.columns()} FROM unnest(${sql.param([...ids])}::bigint[]) WITH ORDINALITY AS n(id, place) JOIN emails e ON e.id = n.id ${JOINS} ORDER BY n.place`,
    );
    return this.emailsOf(tx, rows);
  }

  /** Emails in order of date, in batches; the next one is under way while one is worked on. */
  async *stream(tx: Tx, where: SQL, batch = FETCHED): AsyncGenerator<ReadEmail[]> {
    await tx.execute(
      sql`DECLARE past NO SCROLL CURSOR FOR SELECT ${this.columns()} FROM emails e ${JOINS} WHERE ${where} ORDER BY e.sent_at, e.id`,
    );
    // A query of Drizzle runs anew each time it is waited for; this one is to run once, and at once.
    const fetch = async (): Promise<{ rows: LeanRow[] }> => await tx.execute<LeanRow>(sql.raw(`FETCH ${Math.trunc(batch)} FROM past`));
    let next = fetch();
    for (;;) {
      const { rows } = await next;
      if (rows.length === 0) break;
      next = fetch();
      next.catch(() => undefined);
      yield await this.emailsOf(tx, rows);
    }
    await tx.execute(sql`CLOSE past`);
  }

  private columns(): SQL {
    const { text, attachments } = this.needs;
    return sql`e.id, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, e.mail_class, e.class_header, e.class_value, e.conversation_id, array_to_string(e.owner_ids, ',') AS owners, e.outcome, e.direction,
      e.visibility, nullif(e.shared_teams, '{}') AS shared_teams, e.existence_only, e.decided_at IS NOT NULL AS decided, e.size, e.sensitivity, e.stops::text AS stops, c.subject, nullif(c.codes, '{}') AS codes,
      ${text ? sql`c.body` : sql`NULL AS body`}, p.people, f.filings, h.held,
      ${attachments ? sql`(SELECT array_agg(x.name ORDER BY x.position) FROM attachments x WHERE x.email_id = e.id AND NOT x.inline)` : sql`NULL`} AS attachments,
      (EXISTS (SELECT FROM gestures g WHERE g.email_id = e.id) OR e.conversation_id = ANY(${sql.param(this.pinned)}::bigint[])) AS special`;
  }

  private async emailsOf(tx: Tx, rows: readonly LeanRow[]): Promise<ReadEmail[]> {
    const found = rows.map((row) => {
      const keptOut = row.outcome === 'kept out' && row.subject === null;
      const rule = keptOut ? ruleOfFirstStop(row.stops) : null;
      const settled = keptOut && !row.special && this.staysOut({ mailClass: row.mail_class, rule });
      return { row, settled, again: !settled && (row.special || row.subject === null) };
    });
    const again = found.filter((one) => one.again).map((one) => one.row.id);
    const whole = again.length > 0 ? await loadFacts(tx, this.blobs, again, this.needs.text) : [];
    const byId = new Map(whole.map((one) => [one.facts.id, one]));
    return found.flatMap(({ row, settled }) => {
      const email = byId.get(row.id) ?? this.emailOf(row);
      return [{ email, settled }];
    });
  }

  private emailOf(row: LeanRow): StoredEmail {
    const place = this.placeOf(row.held ?? '', row.owners ?? '');
    const participants = row.people === null ? NONE : this.participants(row.people);
    return {
      facts: {
        id: row.id,
        at: row.at,
        subject: row.subject ?? '',
        text: row.body ?? '',
        codes: row.codes ?? NONE,
        attachments: row.attachments ?? NONE,
        size: row.size,
        sensitivity: SENSITIVITIES.find((one): one is Sensitivity => one === row.sensitivity) ?? null,
        mailClass: row.mail_class,
        classProof: row.class_header === null ? null : { header: this.shared(row.class_header), value: this.shared(row.class_value ?? '') },
        participants,
        gestures: NONE,
        pins: NONE,
        ownKeptOut: keptOutByOwners(place.holders, participants, this.keepOuts),
        ownWords: wordsOn(
          { id: row.id, conversationId: row.conversation_id, at: row.at, ownerIds: place.holders, participants },
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
      conversationId: row.conversation_id,
      ownerIds: place.holders,
      ownerId: null,
      restored: null,
      before: {
        outcome: row.outcome,
        direction: row.direction,
        visibility:
          row.shared_teams === null && !row.existence_only
            ? row.visibility
            : this.shared(
                visibilityKey({ visibility: row.visibility, sharedTeams: row.shared_teams ?? NONE, existenceOnly: row.existence_only }),
              ),
        docket: this.shared(row.stops ?? 'null'),
        filings: this.shared(row.filings ?? ''),
        decided: row.decided,
      },
    };
  }

  /** Participants as they were packed; the answers of a conversation often have the same. */
  private participants(packed: string): readonly Participant[] {
    const known = this.casts.get(packed);
    if (known) return known;
    const made = packed.split('\u001e').map((one) => this.participant(one));
    this.casts.set(packed, made);
    return made;
  }

  private participant(packed: string): Participant {
    const known = this.people.get(packed);
    if (known) return known;
    const [role = '', address = '', domain = '', ...name] = packed.split('\u001f');
    const made: Participant = {
      role: role as Participant['role'],
      address: this.shared(address),
      domain: this.shared(domain),
      name: this.shared(name.join('\u001f')),
    };
    this.people.set(packed, made);
    return made;
  }

  private placeOf(held: string, owners: string): Place {
    const key = `${owners} ${held}`;
    const known = this.wheres.get(key);
    if (known) return known;
    const { mailboxes, users, teams } = this.places;
    const holders = owners.split(',').filter(Boolean).map(Number);
    const pairs = held === '' ? [] : held.split('\u001e').map((one) => one.split('\u001f'));
    const boxes = [...new Set(pairs.map(([id]) => Number(id)))].flatMap((id) => mailboxes.get(id) ?? []);
    const sorted = [...holders].sort((one, other) => one - other);
    const place: Place = {
      holders,
      folders: this.list(pairs.map(([, folder = '']) => folder)),
      mailboxes: this.list(boxes.map((one) => one.address)),
      users: this.list(
        sorted.flatMap((id) => users.get(id) ?? []),
        false,
      ),
      teams: this.list(holders.flatMap((id) => teams.get(id) ?? [])),
      ownTakeIn: TAKE_INS.find((one) => boxes.some((box) => box.takeIn === one)) ?? 'rules',
      sharedByRules: boxes.length === 0 || boxes.some((one) => one.byRules),
      atFilingAddressOnly: boxes.length > 0 && boxes.every((one) => one.filing),
    };
    this.wheres.set(key, place);
    return place;
  }

  /** The texts, each once, as one list for all emails that have the same. */
  private list(texts: readonly string[], sorted = true): readonly string[] {
    if (texts.length === 0) return NONE;
    const unique = texts.length === 1 ? texts : [...new Set(texts)];
    const list = sorted && unique.length > 1 ? [...unique].sort() : unique;
    const key = list.join('\u001e');
    const known = this.lists.get(key);
    if (known) return known;
    this.lists.set(key, list);
    return list;
  }

  private shared(text: string): string {
    const known = this.texts.get(text);
    if (known !== undefined) return known;
    this.texts.set(text, text);
    return text;
  }
}

function ruleOfFirstStop(stops: string | null): string | null {
  const found = stops === null ? null : (JSON.parse(stops) as { rule: string | null }[])[0];
  return found?.rule ?? null;
}

/** Machine mail that stays out by its kind: no rule goes before that, so nothing else of it is asked. */
export function staysOutByKind(rulebook: CompiledRulebook): StaysOut {
  const noRules = rulebook.source.keepOut.rules.every((rule) => !rule.on);
  return ({ mailClass, rule }) => noRules && rule === RULES.machineMail && rulebook.keepsOutClass(mailClass);
}
