GRANT SELECT, INSERT, UPDATE, DELETE ON kept_lists, kept_entries, rulebook_draft, trials, trial_rows, trial_dockets TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON kept_lists, kept_entries, rulebook_draft, trials TO fulvet_app;
--> statement-breakpoint
GRANT SELECT ON trial_rows, trial_dockets TO fulvet_app;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['kept_lists', 'kept_entries', 'rulebook_draft', 'trials', 'trial_rows', 'trial_dockets']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Lists, the draft and trials are for administrators.
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['kept_lists', 'kept_entries', 'rulebook_draft', 'trials']
  LOOP
    EXECUTE format('CREATE POLICY administrators ON %I TO fulvet_app USING ((SELECT fulvet_acting_admin())) WITH CHECK ((SELECT fulvet_acting_admin()))', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- A row of a trial says that an email exists and how it would be decided, as the register does.
CREATE POLICY administrators ON trial_rows FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM emails e WHERE e.id = email_id));
--> statement-breakpoint
-- The docket names people: for those who may read the email.
CREATE POLICY entitled ON trial_dockets FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()) AND EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
