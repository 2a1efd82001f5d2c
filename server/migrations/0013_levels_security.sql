GRANT SELECT, INSERT, UPDATE, DELETE ON teams, team_members TO fulvet_app;
--> statement-breakpoint
GRANT SELECT ON teams, team_members TO fulvet_worker;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['teams', 'team_members']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
    EXECUTE format('CREATE POLICY signed_in ON %I TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Names of the acting user's teams, as emails that are shared with teams name them.
CREATE FUNCTION fulvet_acting_teams() RETURNS text[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT coalesce(array_agg(lower(t.name)), '{}') FROM team_members m JOIN teams t ON t.id = m.team_id WHERE m.user_id = fulvet_acting_user() $$;
--> statement-breakpoint
-- Whether the acting user owns a record under which the email stands.
CREATE FUNCTION fulvet_on_record(wanted bigint) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT EXISTS (
    SELECT FROM filings f
      LEFT JOIN accounts a ON f.kind = 'account' AND a.id = f.record_id LEFT JOIN contacts c ON f.kind = 'contact' AND c.id = f.record_id
      LEFT JOIN leads l ON f.kind = 'lead' AND l.id = f.record_id LEFT JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id
    WHERE f.email_id = wanted AND coalesce(a.owner_id, c.owner_id, l.owner_id, d.owner_id) = fulvet_acting_user())
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_acting_teams(), fulvet_on_record(bigint) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_acting_teams(), fulvet_on_record(bigint) TO fulvet_app;
--> statement-breakpoint
-- Who knows of an email: those who use its mailboxes, those whom its level reaches, and administrators. Who reads it: the first, and
-- the second unless they are to see only that it exists. One condition, written out in every policy so that it can use what is indexed.
DO $$
DECLARE
  reached text := $c$((%1$s.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR (%1$s.visibility = 'teams' AND %1$s.shared_teams && (SELECT fulvet_acting_teams()))
    OR (%1$s.visibility = 'record' AND fulvet_on_record(%1$s.id)))$c$;
  reads text := format($c$((SELECT fulvet_acting_user()) = ANY (e.owner_ids) OR (NOT e.existence_only AND %s))$c$, format(reached, 'e'));
  name text;
BEGIN
  DROP POLICY entitled_or_admin ON emails;
  EXECUTE format('CREATE POLICY known ON emails FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) = ANY (emails.owner_ids) OR (SELECT fulvet_acting_admin()) OR %s)', format(reached, 'emails'));
  FOREACH name IN ARRAY ARRAY['email_contents', 'dockets', 'participants', 'attachments']
  LOOP
    EXECUTE format('DROP POLICY entitled ON %I', name);
    EXECUTE format('CREATE POLICY entitled ON %I FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id AND %s))', name, reads);
  END LOOP;
  DROP POLICY entitled ON gestures;
  EXECUTE format('CREATE POLICY entitled ON gestures FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id AND %s))', reads);
  DROP POLICY entitled ON trial_dockets;
  EXECUTE format('CREATE POLICY entitled ON trial_dockets FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM emails e WHERE e.id = email_id AND %s))', reads);
  DROP POLICY entitled ON blobs;
  EXECUTE format('CREATE POLICY entitled ON blobs FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.blob = sha256 AND e.outcome <> ''kept out'' AND %s))', reads);
  -- Under which people an email stands is a name: who sees only that it exists, sees its companies and deals.
  DROP POLICY with_email ON filings;
  EXECUTE format('CREATE POLICY with_email ON filings FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id AND (kind IN (''account'', ''deal'') OR (SELECT fulvet_acting_admin()) OR %s)))', reads);
  EXECUTE format($f$CREATE OR REPLACE FUNCTION fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT e.id FROM email_contents c JOIN emails e ON e.id = c.email_id
    WHERE c.search @@ websearch_to_tsquery('simple', words) AND fulvet_acting_user() IS NOT NULL AND (%s)
    ORDER BY e.sent_at DESC LIMIT at_most $s$ $f$, reads);
  EXECUTE format($f$CREATE OR REPLACE FUNCTION fulvet_emails_with_address(wanted text) RETURNS TABLE (email_id bigint)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT DISTINCT e.id FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE p.address = wanted AND fulvet_acting_user() IS NOT NULL AND (%s) $s$ $f$, reads);
END $$;
--> statement-breakpoint
-- What trials found before they said it.
UPDATE trial_rows SET seen = CASE WHEN visibility_before = visibility_after THEN NULL WHEN visibility_after = 'everyone' THEN 'newly' ELSE 'no longer' END;
