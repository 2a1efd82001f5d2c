GRANT SELECT, INSERT, UPDATE, DELETE ON own_fields, deal_stages, record_changes, record_views, merges, duplicate_refusals, repairs, pins, desk_passes TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON own_fields, deal_stages, record_views, duplicate_refusals, desk_passes, merges TO fulvet_app;
--> statement-breakpoint
-- What was changed stays as it was written.
GRANT SELECT, INSERT ON record_changes TO fulvet_app;
--> statement-breakpoint
GRANT SELECT ON repairs, pins TO fulvet_app;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['own_fields', 'deal_stages', 'record_changes', 'record_views', 'merges', 'duplicate_refusals', 'repairs', 'pins', 'desk_passes']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
  FOREACH name IN ARRAY ARRAY['own_fields', 'deal_stages', 'record_changes', 'merges', 'duplicate_refusals']
  LOOP
    EXECUTE format('CREATE POLICY signed_in ON %I TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)', name);
  END LOOP;
END $$;
--> statement-breakpoint
CREATE POLICY own_or_shared ON record_views FOR SELECT TO fulvet_app USING (user_id = (SELECT fulvet_acting_user()) OR (shared AND (SELECT fulvet_acting_user()) IS NOT NULL));
--> statement-breakpoint
CREATE POLICY own ON record_views TO fulvet_app USING (user_id = (SELECT fulvet_acting_user())) WITH CHECK (user_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
-- A seal is known to whoever set it, and to nobody else.
CREATE POLICY own_or_admin ON repairs FOR SELECT TO fulvet_app USING (user_id = (SELECT fulvet_acting_user()) OR (NOT sealed AND (SELECT fulvet_acting_admin())));
--> statement-breakpoint
-- Pins: those who may read the email, and who said it: they may take it back even where they do not see the email any more.
CREATE POLICY entitled ON pins FOR SELECT TO fulvet_app USING (user_id = (SELECT fulvet_acting_user()) OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = pins.email_id));
--> statement-breakpoint
CREATE POLICY with_email ON desk_passes TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id)) WITH CHECK (EXISTS (SELECT FROM emails e WHERE e.id = email_id));
--> statement-breakpoint
-- A sealed email is known to those alone who use its mailboxes; administrators are not among them.
DO $$
DECLARE
  reached text := $c$((emails.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR (emails.visibility = 'teams' AND emails.shared_teams && (SELECT fulvet_acting_teams()))
    OR (emails.visibility = 'record' AND fulvet_on_record(emails.id)))$c$;
BEGIN
  DROP POLICY known ON emails;
  EXECUTE format('CREATE POLICY known ON emails FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) = ANY (emails.owner_ids) OR (emails.outcome IS DISTINCT FROM ''sealed'' AND ((SELECT fulvet_acting_admin()) OR %s)))', reached);
END $$;
--> statement-breakpoint
-- Stages that deals stand in become the workspace's stages, those of open deals first.
INSERT INTO deal_stages (name, position, open)
SELECT DISTINCT ON (lower(stage)) stage, (row_number() OVER (ORDER BY open DESC, lower(stage)))::int, open FROM (SELECT stage, bool_or(open) AS open FROM deals WHERE stage <> '' GROUP BY stage) s ORDER BY lower(stage);
