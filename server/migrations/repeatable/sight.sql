-- Written by `npm run sight` from server/src/sharing/sight/ways.ts. Change the ways, not this file.

-- Whether the acting user works on a record under which the email is filed: as its owner, or in the team of a deal.
CREATE OR REPLACE FUNCTION fulvet_on_record(wanted bigint) RETURNS boolean LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS $$
DECLARE me bigint := fulvet_acting_user();
BEGIN
  RETURN EXISTS (SELECT FROM filings f JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE f.email_id = wanted AND r.owner_id = me)
    OR EXISTS (SELECT FROM filings f JOIN deal_team t ON f.kind = 'deal' AND t.deal_id = f.record_id WHERE f.email_id = wanted AND t.user_id = me);
END $$;

-- Who knows of an email.
ALTER POLICY known ON emails USING (
    ((SELECT fulvet_acting_user()) = ANY (emails.owner_ids))
    OR (emails.outcome <> 'sealed' AND (
    (emails.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_admin()))
    OR ((SELECT fulvet_acting_user()) = ANY (emails.granted_ids))
    OR (emails.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (emails.visibility = 'teams' AND emails.shared_teams && (SELECT fulvet_acting_teams()))
    OR (emails.visibility = 'record' AND fulvet_on_record(emails.id)))));

-- The emails that the acting user may read. As a view it belongs to the owner of the tables: the policy of emails is not asked a second time.
CREATE OR REPLACE VIEW fulvet_readable WITH (security_barrier) AS SELECT e.id, e.blob, e.outcome FROM emails e WHERE
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id))));
GRANT SELECT ON fulvet_readable TO fulvet_app;

-- What an email says is seen by those who may read it.
ALTER POLICY entitled ON email_contents USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON dockets USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON participants USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON attachments USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON gestures USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON trial_dockets USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
ALTER POLICY entitled ON blobs USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.blob = sha256 AND r.outcome <> 'kept out'));

-- That an email is filed under an account, a deal or a record of an own kind is known with the email; under which people, to those who read it, and to administrators.
ALTER POLICY with_email ON filings USING (
  CASE WHEN kind IN ('account', 'deal', 'own') OR (SELECT fulvet_acting_admin()) THEN EXISTS (SELECT FROM emails e WHERE e.id = email_id) ELSE EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id) END
  AND ((kind <> 'own' AND (SELECT fulvet_all_records())) OR fulvet_sees_record(kind, record_id)));

-- The newest emails that say these words, of those that the acting user may read.
CREATE OR REPLACE FUNCTION fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint, sent_at timestamptz)
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
  SELECT e.id, e.sent_at FROM email_contents c JOIN emails e ON e.id = c.email_id
  WHERE c.search @@ websearch_to_tsquery('simple', words) AND fulvet_acting_user() IS NOT NULL AND (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id)))))
  ORDER BY e.sent_at DESC LIMIT at_most $s$;
REVOKE ALL ON FUNCTION fulvet_search_emails(text, integer) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_search_emails(text, integer) TO fulvet_app;

-- How many emails the planner expects to say this; it may be asked in no function that is called stable.
CREATE OR REPLACE FUNCTION fulvet_expected_emails(wanted tsquery) RETURNS bigint LANGUAGE plpgsql VOLATILE SECURITY DEFINER SET search_path = public AS $s$
DECLARE plan json;
BEGIN
  EXECUTE format('EXPLAIN (FORMAT JSON) SELECT FROM email_contents WHERE search @@ %L::tsquery', wanted) INTO plan;
  RETURN (plan -> 0 -> 'Plan' ->> 'Plan Rows')::bigint;
END $s$;
REVOKE ALL ON FUNCTION fulvet_expected_emails(tsquery) FROM PUBLIC;

-- How many emails say this, counted so far, by the index: in the table, those that say it may stand behind all others.
CREATE OR REPLACE FUNCTION fulvet_count_saying(wanted tsquery, at_most integer) RETURNS bigint
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public SET enable_seqscan = off AS $s$
  SELECT count(*) FROM (SELECT FROM email_contents c WHERE c.search @@ wanted LIMIT at_most) n $s$;
REVOKE ALL ON FUNCTION fulvet_count_saying(tsquery, integer) FROM PUBLIC;

-- How many emails say this and may be read, counted so far.
CREATE OR REPLACE FUNCTION fulvet_count_readable(wanted tsquery, at_most integer) RETURNS bigint
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public SET enable_seqscan = off AS $s$
  SELECT count(*) FROM (
    SELECT FROM (SELECT c.email_id FROM email_contents c WHERE c.search @@ wanted LIMIT 20000) c JOIN emails e ON e.id = c.email_id WHERE (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id)))))
    LIMIT at_most) n $s$;
REVOKE ALL ON FUNCTION fulvet_count_readable(tsquery, integer) FROM PUBLIC;

-- The same of a single word that is in many emails: of these the index gives some thousands, at random.
CREATE OR REPLACE FUNCTION fulvet_count_sample(wanted tsquery, at_most integer) RETURNS bigint
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public SET gin_fuzzy_search_limit = 2000 AS $s$
  SELECT fulvet_count_readable(wanted, at_most) $s$;
REVOKE ALL ON FUNCTION fulvet_count_sample(tsquery, integer) FROM PUBLIC;

-- A page of the emails that say these words, of those that the acting user may read, the newest first; before an email where that is given. The
-- first page comes with how many there are: exactly, or at least so many. What few emails say is found by the index alone. Of what many say,
-- the newest emails are looked through, in steps; where these have too few, the index has to find all.
CREATE OR REPLACE FUNCTION fulvet_search_page(words text, wanted integer, before timestamptz, before_id bigint)
  RETURNS TABLE (email_id bigint, sent_at timestamptz, total integer, is_more boolean)
  LANGUAGE plpgsql VOLATILE SECURITY DEFINER SET search_path = public AS $s$
DECLARE
  query tsquery := websearch_to_tsquery('simple', words);
  newest bigint[];
  expected bigint;
  found bigint;
  is_some boolean := true;
BEGIN
  IF numnode(query) = 0 OR fulvet_acting_user() IS NULL THEN RETURN; END IF;
  expected := fulvet_expected_emails(query);
  IF expected > 10000 OR fulvet_count_saying(query, 2000 + 1) > 2000 THEN
    FOR step IN 1..2 LOOP
      SELECT array_agg(f.id ORDER BY f.sent_at DESC, f.id DESC) INTO newest FROM (
        SELECT e.id, e.sent_at FROM (
          SELECT x.* FROM emails x WHERE before IS NULL OR (x.sent_at, x.id) < (before, before_id)
          ORDER BY x.sent_at DESC, x.id DESC LIMIT (ARRAY[2000, 12000])[step]) e
        JOIN LATERAL (SELECT FROM email_contents c WHERE c.email_id = e.id AND c.search @@ query) c ON true
        WHERE (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id)))))
        ORDER BY e.sent_at DESC, e.id DESC LIMIT wanted) f;
      IF cardinality(newest) >= wanted THEN
        IF before IS NULL AND numnode(query) = 1 AND expected > 10000 THEN
          found := fulvet_count_sample(query, 1000 + 1);
        ELSIF before IS NULL THEN
          found := fulvet_count_readable(query, 1000 + 1);
          is_some := found > 1000 OR fulvet_count_saying(query, 20000) = 20000;
        END IF;
        RETURN QUERY SELECT e.id, e.sent_at, greatest(least(found, 1000), cardinality(newest))::int, is_some
          FROM emails e WHERE e.id = ANY (newest) ORDER BY e.sent_at DESC, e.id DESC;
        RETURN;
      END IF;
    END LOOP;
  END IF;
  RETURN QUERY
  WITH those AS MATERIALIZED (
    SELECT e.id, e.sent_at FROM email_contents c JOIN emails e ON e.id = c.email_id
    WHERE c.search @@ query AND (before IS NULL OR (e.sent_at, e.id) < (before, before_id)) AND (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id))))))
  SELECT f.id, f.sent_at, (SELECT least(count(*), 1000)::int FROM those), (SELECT count(*) > 1000 FROM those)
  FROM those f ORDER BY f.sent_at DESC, f.id DESC LIMIT wanted;
END $s$;
REVOKE ALL ON FUNCTION fulvet_search_page(text, integer, timestamptz, bigint) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_search_page(text, integer, timestamptz, bigint) TO fulvet_app;

CREATE OR REPLACE FUNCTION fulvet_emails_with_address(wanted text) RETURNS TABLE (email_id bigint)
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
  SELECT DISTINCT e.id FROM participants p JOIN emails e ON e.id = p.email_id
  WHERE p.address = wanted AND (p.role <> 'bcc' OR fulvet_holds_bcc(p.email_id)) AND fulvet_acting_user() IS NOT NULL AND (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id))))) $s$;

-- The mail of records, that of an account's deals with it: as the policies of filings and emails let it be known, asked once for each record and once for each email.
CREATE OR REPLACE FUNCTION fulvet_record_mail(wanted_kind text, wanted bigint[])
  RETURNS TABLE (record_id bigint, email_id bigint, conversation_id bigint, sent_at timestamptz, direction text, mail_class text)
  LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public AS $s$
BEGIN
  IF fulvet_acting_user() IS NULL THEN RETURN; END IF;
  RETURN QUERY
  WITH those AS (
    SELECT r.kind, r.id, r.belongs_to FROM (
      SELECT wanted_kind AS kind, w.id, w.id AS belongs_to FROM unnest(wanted) w(id)
      UNION ALL SELECT 'deal', d.id, d.account_id FROM deals d WHERE wanted_kind = 'account' AND d.account_id = ANY (wanted)) r
    WHERE (r.kind <> 'own' AND (SELECT fulvet_all_records())) OR fulvet_sees_record(r.kind, r.id)),
  mail AS (SELECT DISTINCT t.belongs_to, f.email_id FROM those t JOIN filings f ON f.kind = t.kind AND f.record_id = t.id)
  SELECT m.belongs_to, e.id, e.conversation_id, e.sent_at, e.direction, e.mail_class FROM mail m JOIN emails e ON e.id = m.email_id
  WHERE CASE WHEN wanted_kind IN ('account', 'deal', 'own') OR (SELECT fulvet_acting_admin()) THEN (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_admin()))
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (e.visibility = 'record' AND fulvet_on_record(e.id))))) ELSE (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (NOT e.existence_only AND e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (NOT e.existence_only AND e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (NOT e.existence_only AND e.visibility = 'record' AND fulvet_on_record(e.id))))) END;
END $s$;
REVOKE ALL ON FUNCTION fulvet_record_mail(text, bigint[]) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_record_mail(text, bigint[]) TO fulvet_app;

-- Records with this in their name, address, domain or code, of those that the acting user sees; so many of each place where it is looked for.
CREATE OR REPLACE FUNCTION fulvet_records_like(wanted text, pattern text, at_most integer) RETURNS TABLE (id bigint)
  LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public SET enable_seqscan = off AS $s$
DECLARE sees_all boolean := fulvet_all_records();
BEGIN
  IF fulvet_acting_user() IS NULL THEN RETURN; END IF;
  IF wanted = 'contact' THEN
    RETURN QUERY SELECT c.id FROM contacts c WHERE (c.name ILIKE pattern OR c.title ILIKE pattern) AND (sees_all OR fulvet_sees_record(wanted, c.id)) LIMIT at_most;
  ELSIF wanted = 'lead' THEN
    RETURN QUERY SELECT l.id FROM leads l WHERE (l.name ILIKE pattern OR l.company ILIKE pattern) AND (sees_all OR fulvet_sees_record(wanted, l.id)) LIMIT at_most;
  ELSIF wanted = 'account' THEN
    RETURN QUERY SELECT a.id FROM accounts a WHERE a.name ILIKE pattern AND (sees_all OR fulvet_sees_record(wanted, a.id)) LIMIT at_most;
    RETURN QUERY SELECT d.account_id FROM account_domains d WHERE d.domain ILIKE pattern AND (sees_all OR fulvet_sees_record(wanted, d.account_id)) LIMIT at_most;
  ELSIF wanted = 'own' THEN
    RETURN QUERY SELECT r.id FROM own_records r WHERE (r.name ILIKE pattern OR r.code ILIKE pattern) AND fulvet_sees_record(wanted, r.id) LIMIT at_most;
  ELSE
    RETURN QUERY SELECT d.id FROM deals d WHERE (d.name ILIKE pattern OR d.code ILIKE pattern) AND (sees_all OR fulvet_sees_record(wanted, d.id)) LIMIT at_most;
  END IF;
  IF wanted IN ('contact', 'lead') THEN
    RETURN QUERY SELECT p.person_id FROM person_addresses p WHERE p.kind = wanted AND p.address ILIKE pattern AND (sees_all OR fulvet_sees_record(wanted, p.person_id)) LIMIT at_most;
  END IF;
END $s$;
REVOKE ALL ON FUNCTION fulvet_records_like(text, text, integer) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_records_like(text, text, integer) TO fulvet_app;

-- The mail with a domain, and with those under it where they are wanted, as the acting user may know of it.
CREATE OR REPLACE FUNCTION fulvet_domain_mail(wanted text, below boolean)
  RETURNS TABLE (email_id bigint, conversation_id bigint, sent_at timestamptz, direction text, mail_class text)
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
  WITH those AS MATERIALIZED (
      SELECT s.domain FROM seen_domains s WHERE s.domain = wanted
      UNION ALL SELECT s.domain FROM seen_domains s WHERE below AND reverse(s.domain) ~>=~ reverse('.' || wanted) AND reverse(s.domain) ~<~ (reverse('.' || wanted) || chr(127))),
    found AS MATERIALIZED (SELECT DISTINCT x.id FROM those t CROSS JOIN LATERAL (SELECT m.id FROM emails m WHERE m.external_domains @> ARRAY[t.domain] OFFSET 0) x)
  SELECT e.id, e.conversation_id, e.sent_at, e.direction, e.mail_class FROM found f JOIN emails e ON e.id = f.id
  WHERE fulvet_acting_user() IS NOT NULL AND (
    ((SELECT fulvet_acting_user()) = ANY (e.owner_ids))
    OR (e.outcome <> 'sealed' AND (
    (e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR ((SELECT fulvet_acting_admin()))
    OR ((SELECT fulvet_acting_user()) = ANY (e.granted_ids))
    OR (e.owner_ids && (SELECT fulvet_emergency_owners()))
    OR (e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams()))
    OR (e.visibility = 'record' AND fulvet_on_record(e.id))))) $s$;
REVOKE ALL ON FUNCTION fulvet_domain_mail(text, boolean) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_domain_mail(text, boolean) TO fulvet_app;

-- How much mail lies in the mailboxes that the acting user looks after or uses, by the counts of each day; sealed mail counts for those alone whose it is.
CREATE OR REPLACE FUNCTION fulvet_mailbox_mail(wanted bigint) RETURNS TABLE (mailbox_id bigint, emails integer, sent_at timestamptz, per_day integer[])
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
  WITH mine AS MATERIALIZED (
    SELECT m.id FROM mailboxes m WHERE (wanted IS NULL OR m.id = wanted)
      AND (fulvet_looks_after(m.id) OR EXISTS (SELECT FROM mailbox_users u WHERE u.mailbox_id = m.id AND u.user_id = fulvet_acting_user()))),
  hidden AS MATERIALIZED (
    SELECT s.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date AS day, count(DISTINCT s.email_id)::int AS emails FROM emails e JOIN sightings s ON s.email_id = e.id
    WHERE e.outcome = 'sealed' AND e.mail_class <> 'event' AND (SELECT fulvet_acting_user()) <> ALL (e.owner_ids) AND s.mailbox_id IN (SELECT id FROM mine) GROUP BY 1, 2),
  days AS MATERIALIZED (
    SELECT d.mailbox_id, d.day, d.emails - coalesce(h.emails, 0) AS emails
    FROM mailbox_days d LEFT JOIN hidden h ON h.mailbox_id = d.mailbox_id AND h.day = d.day WHERE d.mailbox_id IN (SELECT id FROM mine)),
  sums AS MATERIALIZED (SELECT d.mailbox_id, sum(d.emails)::int AS emails, max(d.day) FILTER (WHERE d.emails > 0) AS latest FROM days d GROUP BY 1),
  late AS MATERIALIZED (SELECT d.mailbox_id, (now() AT TIME ZONE 'UTC')::date - d.day AS back, d.emails FROM days d WHERE d.day > (now() AT TIME ZONE 'UTC')::date - 30)
  SELECT m.id, coalesce(c.emails, 0),
    (SELECT e.sent_at FROM emails e WHERE e.sent_at >= c.latest::timestamp AT TIME ZONE 'UTC' AND e.sent_at < (c.latest + 1)::timestamp AT TIME ZONE 'UTC'
      AND (SELECT true FROM sightings s WHERE s.email_id = e.id AND s.mailbox_id = m.id LIMIT 1) AND (e.outcome IS DISTINCT FROM 'sealed' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids)) ORDER BY e.sent_at DESC, e.id DESC LIMIT 1),
    ARRAY(SELECT coalesce(d.emails, 0) FROM generate_series(0, 29) b LEFT JOIN late d ON d.mailbox_id = m.id AND d.back = b ORDER BY b DESC)
  FROM mine m LEFT JOIN sums c ON c.mailbox_id = m.id $s$;
REVOKE ALL ON FUNCTION fulvet_mailbox_mail(bigint) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_mailbox_mail(bigint) TO fulvet_app;

-- Which active members see these emails, in which ways, and whether they read them by it. Asked by the worker; to a member it answers of what they know themselves.
CREATE OR REPLACE FUNCTION fulvet_viewers(wanted bigint[]) RETURNS TABLE (email_id bigint, user_id bigint, way text, reads boolean)
  LANGUAGE sql STABLE SET search_path = public AS $s$
  SELECT e.id, s.user_id, s.way, s.reads FROM emails e CROSS JOIN LATERAL (
    SELECT v.user_id, 'mailbox' AS way, true AS reads FROM (SELECT unnest(e.owner_ids) AS user_id) v
    UNION SELECT v.user_id, 'everyone' AS way, NOT e.existence_only AS reads FROM (SELECT a.id AS user_id FROM users a WHERE e.visibility = 'everyone') v WHERE e.outcome <> 'sealed'
    UNION SELECT v.user_id, 'administrator' AS way, false AS reads FROM (SELECT a.id AS user_id FROM users a WHERE a.role = 'admin') v WHERE e.outcome <> 'sealed'
    UNION SELECT v.user_id, 'grant' AS way, true AS reads FROM (SELECT unnest(e.granted_ids) AS user_id) v WHERE e.outcome <> 'sealed'
    UNION SELECT v.user_id, 'emergency' AS way, true AS reads FROM (SELECT x.asked_by AS user_id FROM emergencies x WHERE x.owner_id = ANY (e.owner_ids) AND x.until > now() AND x.ended_at IS NULL) v WHERE e.outcome <> 'sealed'
    UNION SELECT v.user_id, 'teams' AS way, NOT e.existence_only AS reads FROM (SELECT m.user_id FROM team_members m JOIN teams t ON t.id = m.team_id WHERE e.visibility = 'teams' AND lower(t.name) = ANY (e.shared_teams)) v WHERE e.outcome <> 'sealed'
    UNION SELECT v.user_id, 'record' AS way, NOT e.existence_only AS reads FROM (SELECT r.owner_id AS user_id FROM filings f JOIN records r ON r.kind = f.kind AND r.id = f.record_id WHERE e.visibility = 'record' AND f.email_id = e.id
      UNION ALL SELECT t.user_id FROM filings f JOIN deal_team t ON f.kind = 'deal' AND t.deal_id = f.record_id WHERE e.visibility = 'record' AND f.email_id = e.id) v WHERE e.outcome <> 'sealed') s
  JOIN users u ON u.id = s.user_id AND u.active
  WHERE e.id = ANY (wanted) $s$;
REVOKE ALL ON FUNCTION fulvet_viewers(bigint[]) FROM PUBLIC;
GRANT EXECUTE ON FUNCTION fulvet_viewers(bigint[]) TO fulvet_app, fulvet_worker;

COMMENT ON VIEW fulvet_readable IS 'sight dc5d6f335b236910';
