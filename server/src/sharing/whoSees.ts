import { z } from 'zod';
import { idRow, json, rowsOf } from '../base/db/rows';
import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { Eye, Eyes, MemberSight, RecordKind, User } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Database, Db, Tx } from '../base/db/database';
import { emailRows } from '../emails/emailRows';
import { demandEmail } from '../emails/demandEmail';
import { WAYS } from './sight/ways';

/** Whether someone reads an email or knows of it only, and why. */
export interface Sight {
  reads: boolean;
  why: string[];
}

const viewerRow = z.object({ email: z.number(), member: z.number(), way: z.enum(WAYS.map((way) => way.name)), reads: z.boolean() });
type Viewer = z.infer<typeof viewerRow>;

const emailRow = z.object({
  id: z.number(),
  shared_teams: z.array(z.string()),
  mailboxes: json<{ address: string; owner: number; kind: string }[]>().nullable(),
  records: json<{ kind: RecordKind; id: number; name: string; owner: number | null; team: number[] | null }[]>().nullable(),
  grants: json<{ by: string; to: number; scope: string }[]>().nullable(),
  emergencies: json<{ reader: number; owner: string; until: string; by: string }[]>().nullable(),
});
type EmailRow = z.infer<typeof emailRow>;

const memberRow = z.object({ id: z.number(), name: z.string(), role: z.string(), teams: z.array(z.string()).nullable() });
type Member = z.infer<typeof memberRow>;

/**
 * Who sees these emails and why, by email and member; who learns of an email by nothing is missing. Who does is answered by the database,
 * from the ways that its policies are written from as well; what is said of each way is found here.
 *
 * @param names kinds and ids of records that may be named to whoever asks
 */
export async function sightsOf(
  db: Db | Tx,
  emailIds: readonly number[],
  names: ReadonlySet<string>,
): Promise<{ members: Member[]; byEmail: Map<number, Map<number, Sight>> }> {
  const wanted = sql`${sql.param([...emailIds])}::bigint[]`;
  const members = await rowsOf(
    db,
    memberRow,
    sql`SELECT u.id, u.name, u.role, (SELECT array_agg(lower(t.name)) FROM team_members m JOIN teams t ON t.id = m.team_id WHERE m.user_id = u.id) AS teams FROM users u WHERE u.active ORDER BY u.name`,
  );
  const viewers = await rowsOf(
    db,
    viewerRow,
    sql`SELECT email, member, way, reads FROM fulvet_viewers(${wanted}) AS v(email, member, way, reads)`,
  );
  const rows = await rowsOf(
    db,
    emailRow,
    sql`
    SELECT e.id, e.shared_teams,
      (SELECT json_agg(DISTINCT jsonb_build_object('address', m.address, 'owner', m.owner_id, 'kind', m.kind)) FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = e.id) AS mailboxes,
      (SELECT json_agg(json_build_object('kind', f.kind, 'id', f.record_id, 'name', r.name, 'owner', r.owner_id, 'team', (SELECT json_agg(t.user_id) FROM deal_team t WHERE f.kind = 'deal' AND t.deal_id = f.record_id)))
        FROM filings f LEFT JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE f.email_id = e.id) AS records,
      (SELECT json_agg(json_build_object('by', u.name, 'to', g.to_user_id, 'scope', g.scope)) FROM grants g JOIN users u ON u.id = g.by_user_id WHERE g.withdrawn_at IS NULL AND g.by_user_id = ANY(e.owner_ids) AND g.to_user_id = ANY(e.granted_ids) AND CASE g.scope WHEN 'email' THEN g.email_id = e.id
        WHEN 'conversation' THEN (SELECT conversation_id FROM emails o WHERE o.id = g.email_id) = e.conversation_id ELSE EXISTS (SELECT FROM filings f LEFT JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id WHERE f.email_id = e.id AND (f.kind = g.record_kind AND f.record_id = g.record_id OR g.record_kind = 'account' AND d.account_id = g.record_id)) END) AS grants,
      (SELECT json_agg(json_build_object('reader', x.asked_by, 'owner', u.name, 'until', to_char(x.until AT TIME ZONE 'UTC', 'YYYY-MM-DD HH24:MI'), 'by', b.name)) FROM emergencies x JOIN users u ON u.id = x.owner_id JOIN users b ON b.id = x.confirmed_by WHERE x.owner_id = ANY(e.owner_ids) AND x.until > now() AND x.ended_at IS NULL) AS emergencies
    FROM emails e WHERE e.id = ANY(${wanted})`,
  );
  const byEmail = new Map(
    rows.map((email) => {
      const seen = viewers.filter((viewer) => viewer.email === email.id);
      return [
        email.id,
        new Map(
          members.flatMap((member) => {
            const ways = seen.filter((viewer) => viewer.member === member.id);
            return ways.length > 0 ? [[member.id, sightBy(ways, email, member, names)] as const] : [];
          }),
        ),
      ];
    }),
  );
  return { members, byEmail };
}

function sightBy(ways: readonly Viewer[], email: EmailRow, member: Member, names: ReadonlySet<string>): Sight {
  const byMailbox = ways.find(({ way }) => way === 'mailbox');
  if (byMailbox) return { reads: true, why: reasonsOf('mailbox', email, member, names) };
  // In the order of the ways, those by name first.
  const ordered = ['grant', 'emergency', 'everyone', 'teams', 'record', 'administrator'] as const;
  const found = ordered.flatMap((name) => ways.filter(({ way }) => way === name));
  const reading = found.filter(({ reads }) => reads);
  if (reading.length > 0) return { reads: true, why: reading.flatMap(({ way }) => reasonsOf(way, email, member, names)) };
  return {
    reads: false,
    why: found.flatMap(({ way }) => {
      const reasons = reasonsOf(way, email, member, names);
      return way === 'administrator' ? reasons : reasons.map((reason) => `${reason}: that it exists only`);
    }),
  };
}

const SCOPES: Record<string, string> = { email: 'this email', conversation: 'the conversation', record: 'all with one of its records' };

function reasonsOf(way: Viewer['way'], email: EmailRow, member: Member, names: ReadonlySet<string>): string[] {
  switch (way) {
    case 'mailbox': {
      const own = (email.mailboxes ?? []).filter((mailbox) => mailbox.owner === member.id).map((mailbox) => mailbox.address);
      return [own.length > 0 ? `it is in their mailbox ${own.join(', ')}` : 'it is in a shared mailbox that they use'];
    }
    case 'grant':
      return (email.grants ?? [])
        .filter((grant) => grant.to === member.id)
        .map((grant) => `${grant.by} lets them read ${SCOPES[grant.scope] ?? grant.scope}`);
    case 'emergency':
      return (email.emergencies ?? [])
        .filter((emergency) => emergency.reader === member.id)
        .map(
          (emergency) => `an emergency reading of ${emergency.owner}’s mail, confirmed by ${emergency.by}, until ${emergency.until} UTC`,
        );
    case 'everyone':
      return ['it is shared with everyone'];
    case 'teams':
      return email.shared_teams
        .filter((team) => member.teams?.includes(team))
        .map((team) => `they are in the team ${team}, with which it is shared`);
    case 'record':
      return (email.records ?? []).flatMap(({ kind, id, name, owner, team }) => {
        const shown = names.has(`${kind}:${id}`) ? `the ${kind} ${name}` : `a ${kind} that you may not see`;
        if (owner === member.id) return [`through ${shown}, as its owner`];
        return team?.includes(member.id) ? [`through ${shown}, as one of its team`] : [];
      });
    case 'administrator':
      return ['as an administrator: that it exists, and how it was decided'];
  }
}

const sealedRow = z.object({ sealed: z.boolean() });

/** Who sees an email, to someone who knows of it. */
export async function whoSees(database: Database, reader: User, emailId: number): Promise<Eyes | Refusal> {
  const names = await database.as(reader.id, async (tx) => {
    const refused = await demandEmail(tx, emailId);
    if (isRefusal(refused)) return refused;
    return namesOf(tx, [emailId]);
  });
  if (isRefusal(names)) return names;
  const { members, byEmail } = await sightsOf(database.worker, [emailId], names);
  const rows = await rowsOf(
    database.worker,
    sealedRow,
    sql`SELECT outcome IS NOT DISTINCT FROM 'sealed' AS sealed FROM emails WHERE id = ${emailId}`,
  );
  const found = byEmail.get(emailId) ?? new Map<number, Sight>();
  const eyes: Eye[] = members.flatMap(({ id, name, role }) => {
    const sight = found.get(id);
    return sight ? [{ user: { id, name, role }, ...sight }] : [];
  });
  return {
    eyes: eyes.sort((first, second) => Number(second.reads) - Number(first.reads)),
    nobody: members.length - eyes.length,
    sealed: rows[0]?.sealed ?? false,
  };
}

const filingRow = z.object({ key: z.string() });

/** Records of these emails that the acting user may see, as `kind:id`. */
async function namesOf(tx: Tx, emailIds: readonly number[]): Promise<Set<string>> {
  const rows = await rowsOf(
    tx,
    filingRow,
    sql`SELECT DISTINCT kind || ':' || record_id AS key FROM filings WHERE email_id = ANY(${sql.param([...emailIds])}::bigint[])`,
  );
  return new Set(rows.map((row) => row.key));
}

const SHOWN = 50;

const userRow = z.object({ name: z.string(), address: z.string(), owner_id: z.number() });

const sightRow = z.object({ id: z.number(), reads: z.boolean(), sent_at: z.string() });

/** What a member sees of a mailbox, of what the reader may know of it: asked of the database itself, as that member. */
export async function sightOfMailbox(
  database: Database,
  reader: User,
  memberId: number,
  mailboxId: number,
  rulebook: CompiledRulebook,
): Promise<MemberSight | Refusal> {
  const rows = await database.as(reader.id, (tx) =>
    rowsOf(
      tx,
      userRow,
      sql`SELECT u.name, m.address, m.owner_id FROM users u, mailboxes m WHERE u.id = ${memberId} AND m.id = ${mailboxId}`,
    ),
  );
  const [about] = rows;
  if (!about) return notFound('member or mailbox');
  if (reader.role !== 'admin' && about.owner_id !== reader.id && memberId !== reader.id) return notFound('mailbox of yours');
  const known = await database.as(reader.id, (tx) =>
    rowsOf(tx, idRow, sql`SELECT DISTINCT e.id FROM sightings s JOIN emails e ON e.id = s.email_id WHERE s.mailbox_id = ${mailboxId}`),
  );
  const ids = sql.param(known.map((row) => row.id));
  const seen = await database.as(memberId, (tx) =>
    rowsOf(
      tx,
      sightRow,
      sql`SELECT e.id, c.email_id IS NOT NULL OR ${memberId} = ANY(e.owner_ids) AS reads, e.sent_at FROM emails e LEFT JOIN email_contents c ON c.email_id = e.id WHERE e.id = ANY(${ids}::bigint[]) ORDER BY e.sent_at DESC, e.id DESC`,
    ),
  );
  const newest = seen.slice(0, SHOWN).map((row) => row.id);
  const names = await database.as(reader.id, (tx) => namesOf(tx, newest));
  const { byEmail } = await sightsOf(database.worker, newest, names);
  const rowsShown = await database.as(reader.id, (tx) => emailRows(tx, newest, rulebook));
  const reads = seen.filter((row) => row.reads).length;
  return {
    member: { id: memberId, name: about.name },
    mailbox: about.address,
    reads,
    exists: seen.length - reads,
    nothing: known.length - seen.length,
    emails: rowsShown.map((email) => ({ email, ...(byEmail.get(email.id)?.get(memberId) ?? { reads: false, why: [] }) })),
  };
}
