/**
 * Every way in which a member comes to see an email, once. From these the database's policies, its view and its functions are written
 * (`npm run sight`), and "Who can see this" gives its reasons from the same ways.
 *
 * `holding` is a condition over the email `e` for the acting user; `viewers` are the users whom it holds for, as a query over the email `e` with
 * one column `user_id`. Cheap conditions come first: the database asks them in this order.
 */
export interface Way {
  name: 'mailbox' | 'everyone' | 'administrator' | 'grant' | 'emergency' | 'teams' | 'record';
  /** `read`: the email itself. `level`: the email, unless its level says that it exists only. `know`: that it exists, and how it was decided. */
  gives: 'read' | 'level' | 'know';
  /** Holds for a sealed email as well, and for one that is not decided yet and may come to be sealed. */
  evenSealed?: true;
  holding: string;
  viewers: string;
}

const ACTING = '(SELECT fulvet_acting_user())';

export const WAYS: readonly Way[] = [
  {
    name: 'mailbox',
    gives: 'read',
    evenSealed: true,
    holding: `${ACTING} = ANY (e.owner_ids)`,
    viewers: 'SELECT unnest(e.owner_ids) AS user_id',
  },
  {
    name: 'everyone',
    gives: 'level',
    holding: `e.visibility = 'everyone' AND ${ACTING} IS NOT NULL`,
    viewers: `SELECT a.id AS user_id FROM users a WHERE e.visibility = 'everyone'`,
  },
  {
    name: 'administrator',
    gives: 'know',
    holding: '(SELECT fulvet_acting_admin())',
    viewers: `SELECT a.id AS user_id FROM users a WHERE a.role = 'admin'`,
  },
  {
    name: 'grant',
    gives: 'read',
    holding: `${ACTING} = ANY (e.granted_ids)`,
    viewers: 'SELECT unnest(e.granted_ids) AS user_id',
  },
  {
    name: 'emergency',
    gives: 'read',
    holding: 'e.owner_ids && (SELECT fulvet_emergency_owners())',
    viewers:
      'SELECT x.asked_by AS user_id FROM emergencies x WHERE x.owner_id = ANY (e.owner_ids) AND x.until > now() AND x.ended_at IS NULL',
  },
  {
    name: 'teams',
    gives: 'level',
    holding: `e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams())`,
    viewers: `SELECT m.user_id FROM team_members m JOIN teams t ON t.id = m.team_id WHERE e.visibility = 'teams' AND lower(t.name) = ANY (e.shared_teams)`,
  },
  {
    name: 'record',
    gives: 'level',
    holding: `e.visibility = 'record' AND fulvet_on_record(e.id)`,
    viewers: `SELECT r.owner_id AS user_id FROM filings f JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE e.visibility = 'record' AND f.email_id = e.id
      UNION ALL SELECT t.user_id FROM filings f JOIN deal_team t ON f.kind = 'deal' AND t.deal_id = f.record_id WHERE e.visibility = 'record' AND f.email_id = e.id`,
  },
];
