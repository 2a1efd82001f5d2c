-- What the policies ask about the acting user, in functions whose plan a session keeps: as plain SQL they would be planned anew in every place of every query.
CREATE OR REPLACE FUNCTION fulvet_acting_admin() RETURNS boolean LANGUAGE plpgsql STABLE PARALLEL SAFE AS
$$ BEGIN RETURN EXISTS (SELECT FROM users WHERE id = fulvet_acting_user() AND role = 'admin' AND active); END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_acting_teams() RETURNS text[] LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS
$$ BEGIN RETURN (SELECT coalesce(array_agg(lower(t.name)), '{}') FROM team_members m JOIN teams t ON t.id = m.team_id WHERE m.user_id = fulvet_acting_user()); END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_emergency_owners() RETURNS bigint[] LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS
$$ BEGIN RETURN (SELECT coalesce(array_agg(owner_id), '{}') FROM emergencies WHERE asked_by = fulvet_acting_user() AND until > now() AND ended_at IS NULL); END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_all_records() RETURNS boolean LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS
$$ BEGIN RETURN fulvet_acting_user() IS NOT NULL AND (fulvet_acting_admin() OR coalesce((SELECT record_reach = 'all' FROM workspace), true)); END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_record_owners() RETURNS bigint[] LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS $$
BEGIN
  RETURN (SELECT array_agg(id) FROM (
    SELECT fulvet_acting_user() AS id UNION
    SELECT o.user_id FROM team_members m JOIN team_members o ON o.team_id = m.team_id
    WHERE m.user_id = fulvet_acting_user() AND ((SELECT record_reach FROM workspace) = 'team' OR (SELECT role FROM users WHERE id = fulvet_acting_user()) = 'lead')) reach);
END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_on_record(wanted bigint) RETURNS boolean LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public AS $$
DECLARE me bigint := fulvet_acting_user();
BEGIN
  RETURN EXISTS (
    SELECT FROM filings f
      LEFT JOIN accounts a ON f.kind = 'account' AND a.id = f.record_id LEFT JOIN contacts c ON f.kind = 'contact' AND c.id = f.record_id
      LEFT JOIN leads l ON f.kind = 'lead' AND l.id = f.record_id LEFT JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id
    WHERE f.email_id = wanted AND (coalesce(a.owner_id, c.owner_id, l.owner_id, d.owner_id) = me
      OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)));
END $$;
--> statement-breakpoint
ALTER FUNCTION fulvet_sees_record(text, bigint) PARALLEL SAFE;
--> statement-breakpoint
DO $$
DECLARE
  by_name text := $c$(SELECT fulvet_acting_user()) = ANY (e.granted_ids) OR e.owner_ids && (SELECT fulvet_emergency_owners())$c$;
  everybody text := $c$(e.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)$c$;
  narrower text := $c$(e.visibility = 'teams' AND e.shared_teams && (SELECT fulvet_acting_teams())) OR (e.visibility = 'record' AND fulvet_on_record(e.id))$c$;
  owned text := $c$(SELECT fulvet_acting_user()) = ANY (e.owner_ids)$c$;
  -- The same conditions as before, the cheap ones first.
  knows text := format($c$%s OR (e.outcome <> 'sealed' AND (%s OR (SELECT fulvet_acting_admin()) OR %s OR %s))$c$, owned, everybody, by_name, narrower);
  reads text := format($c$%s OR (e.outcome <> 'sealed' AND ((NOT e.existence_only AND %s) OR %s OR (NOT e.existence_only AND (%s))))$c$, owned, everybody, by_name, narrower);
  name text;
BEGIN
  EXECUTE format('ALTER POLICY known ON emails USING (%s)', replace(knows, 'e.', 'emails.'));
  -- The emails that the acting user may read. As a view it belongs to the owner of the tables: the policy of emails is not asked a second time, which it would
  -- always answer with yes. Nothing is seen in it but which emails they are.
  EXECUTE format('CREATE VIEW fulvet_readable WITH (security_barrier) AS SELECT e.id, e.blob, e.outcome FROM emails e WHERE %s', reads);
  GRANT SELECT ON fulvet_readable TO fulvet_app;
  FOREACH name IN ARRAY ARRAY['email_contents', 'dockets', 'participants', 'attachments', 'gestures']
  LOOP
    EXECUTE format('ALTER POLICY entitled ON %I USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id))', name);
  END LOOP;
  ALTER POLICY entitled ON trial_dockets USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id));
  ALTER POLICY entitled ON blobs USING (EXISTS (SELECT FROM fulvet_readable r WHERE r.blob = sha256 AND r.outcome <> 'kept out'));
  ALTER POLICY with_email ON filings USING (
    CASE WHEN kind IN ('account', 'deal') OR (SELECT fulvet_acting_admin()) THEN EXISTS (SELECT FROM emails e WHERE e.id = email_id) ELSE EXISTS (SELECT FROM fulvet_readable r WHERE r.id = email_id) END
    AND ((SELECT fulvet_all_records()) OR fulvet_sees_record(kind, record_id)));
  -- With the time of each: who asks for the newest that say something need not look at the emails again.
  DROP FUNCTION fulvet_search_emails(text, integer);
  EXECUTE format($f$CREATE FUNCTION fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint, sent_at timestamptz)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT e.id, e.sent_at FROM email_contents c JOIN emails e ON e.id = c.email_id
    WHERE c.search @@ websearch_to_tsquery('simple', words) AND fulvet_acting_user() IS NOT NULL AND (%s)
    ORDER BY e.sent_at DESC LIMIT at_most $s$ $f$, reads);
  REVOKE ALL ON FUNCTION fulvet_search_emails(text, integer) FROM PUBLIC;
  GRANT EXECUTE ON FUNCTION fulvet_search_emails(text, integer) TO fulvet_app;
  EXECUTE format($f$CREATE OR REPLACE FUNCTION fulvet_emails_with_address(wanted text) RETURNS TABLE (email_id bigint)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT DISTINCT e.id FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE p.address = wanted AND fulvet_acting_user() IS NOT NULL AND (%s) $s$ $f$, reads);
  -- The mail of records, that of an account's deals with it: as the policies of filings and emails let it be known, asked once for each record and once for each email.
  EXECUTE format($f$CREATE FUNCTION fulvet_record_mail(wanted_kind text, wanted bigint[])
    RETURNS TABLE (record_id bigint, email_id bigint, conversation_id bigint, sent_at timestamptz, direction text, mail_class text)
    LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public AS $s$
    BEGIN
      IF fulvet_acting_user() IS NULL THEN RETURN; END IF;
      RETURN QUERY
      WITH those AS (
        SELECT r.kind, r.id, r.belongs_to FROM (
          SELECT wanted_kind AS kind, w.id, w.id AS belongs_to FROM unnest(wanted) w(id)
          UNION ALL SELECT 'deal', d.id, d.account_id FROM deals d WHERE wanted_kind = 'account' AND d.account_id = ANY (wanted)) r
        WHERE (SELECT fulvet_all_records()) OR fulvet_sees_record(r.kind, r.id)),
      mail AS (SELECT DISTINCT t.belongs_to, f.email_id FROM those t JOIN filings f ON f.kind = t.kind AND f.record_id = t.id)
      SELECT m.belongs_to, e.id, e.conversation_id, e.sent_at, e.direction, e.mail_class FROM mail m JOIN emails e ON e.id = m.email_id
      WHERE CASE WHEN wanted_kind IN ('account', 'deal') OR (SELECT fulvet_acting_admin()) THEN %s ELSE %s END;
    END $s$ $f$, knows, reads);
  REVOKE ALL ON FUNCTION fulvet_record_mail(text, bigint[]) FROM PUBLIC;
  GRANT EXECUTE ON FUNCTION fulvet_record_mail(text, bigint[]) TO fulvet_app;
END $$;
