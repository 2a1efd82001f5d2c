import { z } from 'zod';
import { json, manyRowsOf } from '../../base/db/rows';
import { mailClass, direction, shareLevel } from '@fulvet/contract';
import { SENDER_CHECKS, codeWordsOfText, SENSITIVITIES, visibilityKey, wordPairsOf } from '@fulvet/core';
import type { DecisionFacts, Direction, EmailFacts, Gesture, Participant, Pin, Sensitivity } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../../base/reading/sources';
import type { Tx } from '../../base/db/database';
import { loadPins } from './loadPins';
import type { OwnKeepOuts } from './ownKeepOuts';
import { keptOutByOwners, loadOwnKeepOuts } from './ownKeepOuts';
import type { StandingWords } from './sharingChoices';
import { loadSharingChoices, wordsOn } from './sharingChoices';

/** A stored email as the decision needs it, with what stood before. */
export interface StoredEmail {
  facts: DecisionFacts;
  conversationId: number;
  ownerIds: number[];
  /** The sightings' owner who sent it, else the first owner. */
  ownerId: number | null;
  /** Set where the email was kept out before and its content was read again from the source. */
  restored: EmailFacts | null;
  before: {
    outcome: string | null;
    direction: Direction | null;
    /** As core's `visibilityKey` says it. */
    visibility: string;
    docket: string;
    filings: string;
    decided: boolean;
  };
}

const factRow = z.object({
  id: z.number(),
  at: z.number(),
  arrived: z.number(),
  mail_class: mailClass,
  class_header: z.string().nullable(),
  class_value: z.string().nullable(),
  conversation_id: z.number(),
  owner_ids: z.array(z.number()),
  outcome: z.string().nullable(),
  direction: direction.nullable(),
  visibility: shareLevel,
  shared_teams: z.array(z.string()),
  existence_only: z.boolean(),
  decided: z.boolean(),
  subject: z.string().nullable(),
  docket: z.unknown(),
  steps: z.unknown(),
  pack: z.string().nullable(),
  blob_position: z.number().nullable(),
  length: z.number().nullable(),
  size: z.number().nullable(),
  people: json<Participant[]>().nullable(),
  filings: z.string().nullable(),
  sender_owner: z.number().nullable(),
  gestures: json<Gesture[]>().nullable(),
  shared_by_rules: z.boolean().nullable(),
  at_filing_address_only: z.boolean().nullable(),
  own_take_in: z.enum(['known', 'rules', 'byHand']).nullable(),
  body: z.string().nullable(),
  codes: z.array(z.string()).nullable(),
  word_pairs: z.string().nullable(),
  email_size: z.number(),
  sensitivity: z.string().nullable(),
  sender_check: z.enum(SENDER_CHECKS),
  author_trusted: z.boolean(),
  attachments: z.array(z.string()).nullable(),
  folders: z.array(z.string()).nullable(),
  mailboxes: z.array(z.string()).nullable(),
  users: z.array(z.string()).nullable(),
  teams: z.array(z.string()).nullable(),
});
type FactRow = z.infer<typeof factRow>;

/**
 * Loads stored emails for deciding, in the order of the ids. Kept-out ones are read again from their source; those whose source is gone or
 * damaged are left out.
 *
 * @param withText also the body's text, which only some rules ask for
 */
export async function loadFacts(tx: Tx, blobs: Sources, ids: readonly number[], withText: boolean): Promise<StoredEmail[]> {
  const rows = await manyRowsOf(
    tx,
    factRow,
    sql`
    SELECT e.id, (extract(epoch FROM e.sent_at) * 1000)::float8 AS at, (extract(epoch FROM e.arrived_at) * 1000)::float8 AS arrived, e.mail_class, e.class_header, e.class_value,
      e.conversation_id, e.owner_ids, e.outcome, e.direction, e.visibility, e.shared_teams, e.existence_only, e.decided_at IS NOT NULL AS decided, c.subject, c.codes, c.word_pairs, ${withText ? sql`c.body` : sql`NULL AS body`}, e.size AS email_size, e.sensitivity, e.sender_check, e.author_trusted, t.attachments, held.folders, held.mailboxes, holders.users, holders.teams, k.docket, e.steps, b.pack, b.position AS blob_position, b.length, b.size, p.people, f.filings,
      coalesce((SELECT u.id FROM participants s JOIN users u ON lower(u.email) = s.address WHERE s.email_id = e.id AND s.role = 'sender' LIMIT 1),
        (SELECT m.owner_id FROM participants s JOIN mailboxes m ON m.address = s.address OR s.address = ANY(m.aliases) WHERE s.email_id = e.id AND s.role = 'from' ORDER BY m.id LIMIT 1)) AS sender_owner,
      g.gestures, held.shared_by_rules, held.at_filing_address_only, held.own_take_in
    FROM unnest(${sql.param([...ids])}::bigint[]) WITH ORDINALITY AS n(id, place)
    JOIN emails e ON e.id = n.id
    LEFT JOIN email_contents c ON c.email_id = e.id LEFT JOIN dockets k ON k.email_id = e.id
    LEFT JOIN blobs b ON b.sha256 = e.blob AND c.email_id IS NULL
    LEFT JOIN LATERAL (SELECT json_agg(json_build_object('role', role, 'address', address, 'domain', domain, 'name', name) ORDER BY array_position(ARRAY['from','sender','replyTo','to','cc','bcc','claimed'], role), position) AS people FROM participants WHERE email_id = e.id) p ON true
    LEFT JOIN LATERAL (SELECT string_agg(kind || ':' || record_id || ':' || rule, ',' ORDER BY kind, record_id) AS filings FROM filings WHERE email_id = e.id) f ON true
    LEFT JOIN LATERAL (SELECT bool_or(m.share = 'rules') AS shared_by_rules, bool_and(m.kind = 'filing') AS at_filing_address_only, (array_agg(m.take_in ORDER BY array_position(ARRAY['rules', 'known', 'byHand'], m.take_in)))[1] AS own_take_in, array_agg(DISTINCT s.folder) AS folders, array_agg(DISTINCT m.address) AS mailboxes
      FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id) held ON true
    LEFT JOIN LATERAL (SELECT array_agg(lower(u.email) ORDER BY u.id) AS users, (SELECT array_agg(DISTINCT lower(g.name)) FROM team_members w JOIN teams g ON g.id = w.team_id WHERE w.user_id = ANY(e.owner_ids)) AS teams FROM users u WHERE u.id = ANY(e.owner_ids)) holders ON true
    LEFT JOIN LATERAL (SELECT array_agg(x.name ORDER BY x.position) AS attachments FROM attachments x WHERE x.email_id = e.id AND NOT x.inline) t ON true
    LEFT JOIN LATERAL (SELECT json_agg(json_build_object('via', x.via, 'target', x.target, 'recordId', x.record_id, 'detail', x.detail, 'trusted', x.trusted, 'by', u.name,
        'recordName', coalesce(r.name, '')) ORDER BY x.id) AS gestures
      FROM gestures x LEFT JOIN users u ON u.id = x.user_id LEFT JOIN records r ON r.kind = x.target AND r.id = x.record_id
      WHERE x.email_id = e.id AND (x.record_id IS NULL OR r.id IS NOT NULL)) g ON true
    ORDER BY n.place`,
  );
  const pins = await loadPins(tx, ids);
  const keepOuts = await loadOwnKeepOuts(tx);
  const words = await loadSharingChoices(tx);
  const restored = await restoredFacts(rows, blobs);
  return rows.flatMap((row) => {
    const facts = restored.get(row.id);
    return facts === null ? [] : [storedEmail(row, pins.get(row.id) ?? [], { keepOuts, words }, facts ?? null)];
  });
}

/** What kept-out emails say, by their ids; null where the source cannot be read. */
async function restoredFacts(rows: readonly FactRow[], sources: Sources): Promise<Map<number, EmailFacts | null>> {
  const keptOut = rows.flatMap(({ pack, blob_position: position, length, size, ...row }) =>
    pack === null || position === null || length === null || size === null ? [] : [{ ...row, pack, position, length, size }],
  );
  const read = await sources.readStored(keptOut);
  return new Map(keptOut.map(({ id }, at) => [id, read[at] ?? null]));
}

function storedEmail(
  row: FactRow,
  pins: readonly Pin[],
  { keepOuts, words }: { keepOuts: OwnKeepOuts; words: StandingWords },
  restored: EmailFacts | null,
): StoredEmail {
  const participants = restored?.participants ?? row.people ?? [];
  return {
    facts: {
      id: row.id,
      at: row.at,
      subject: restored?.subject ?? row.subject ?? '',
      text: restored?.text ?? row.body ?? '',
      codes: restored ? codeWordsOfText(restored.text) : (row.codes ?? []),
      wordPairs: restored ? wordPairsOf(restored.text) : (row.word_pairs ?? ''),
      attachments:
        restored?.attachments.filter((attachment) => !attachment.inline).map((attachment) => attachment.name) ?? row.attachments ?? [],
      size: row.email_size,
      sensitivity:
        restored?.sensitivity ?? SENSITIVITIES.find((sensitivity): sensitivity is Sensitivity => sensitivity === row.sensitivity) ?? null,
      senderCheck: row.sender_check,
      folders: row.folders ?? [],
      mailboxes: row.mailboxes ?? [],
      users: row.users ?? [],
      teams: row.teams ?? [],
      mailClass: row.mail_class,
      classProof: row.class_header === null ? null : { header: row.class_header, value: row.class_value ?? '' },
      participants,
      gestures: row.gestures ?? [],
      pins,
      ownKeptOut: keptOutByOwners(row.owner_ids, participants, keepOuts),
      sharingChoices: wordsOn(
        { id: row.id, conversationId: row.conversation_id, at: row.at, ownerIds: row.owner_ids, participants },
        words,
      ),
      ownTakeIn: row.own_take_in ?? 'rules',
      sharedByRules: row.shared_by_rules ?? true,
      atFilingAddressOnly: row.at_filing_address_only ?? false,
    },
    conversationId: row.conversation_id,
    ownerIds: row.owner_ids,
    ownerId: row.sender_owner ?? row.owner_ids[0] ?? null,
    restored,
    before: {
      outcome: row.outcome,
      direction: row.direction,
      visibility: visibilityKey({ visibility: row.visibility, sharedTeams: row.shared_teams, existenceOnly: row.existence_only }),
      docket: JSON.stringify(row.docket ?? row.steps ?? null),
      filings: row.filings ?? '',
      decided: row.decided,
    },
  };
}
