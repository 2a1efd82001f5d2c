GRANT SELECT, INSERT, UPDATE, DELETE ON mailbox_secrets, mailbox_users, mailbox_checks, mailbox_folders, folder_messages, mailbox_events, sign_in_states, gestures TO fulvet_worker;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
-- Secrets and begun sign-ins are no business of requests: no grant for fulvet_app.
GRANT SELECT, INSERT, UPDATE, DELETE ON mailbox_users, mailbox_folders TO fulvet_app;
--> statement-breakpoint
GRANT SELECT ON mailbox_checks, folder_messages, mailbox_events, gestures TO fulvet_app;
--> statement-breakpoint
GRANT INSERT ON mailbox_events TO fulvet_app;
--> statement-breakpoint
-- Who looks after a mailbox: its owner, and administrators.
CREATE FUNCTION fulvet_looks_after(wanted bigint) RETURNS boolean LANGUAGE sql STABLE AS
$$ SELECT fulvet_acting_admin() OR EXISTS (SELECT FROM mailboxes m WHERE m.id = wanted AND m.owner_id = fulvet_acting_user()) $$;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['mailbox_secrets', 'mailbox_users', 'mailbox_checks', 'mailbox_folders', 'folder_messages', 'mailbox_events', 'sign_in_states', 'gestures']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
  FOREACH name IN ARRAY ARRAY['mailbox_checks', 'mailbox_folders', 'mailbox_events']
  LOOP
    EXECUTE format('CREATE POLICY who_looks_after ON %I TO fulvet_app USING (fulvet_looks_after(mailbox_id)) WITH CHECK (fulvet_looks_after(mailbox_id))', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Who uses a shared address is no secret in the team; changing it is for those who look after it.
CREATE POLICY signed_in ON mailbox_users FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
CREATE POLICY who_looks_after_adds ON mailbox_users FOR INSERT TO fulvet_app WITH CHECK (fulvet_looks_after(mailbox_id));
--> statement-breakpoint
CREATE POLICY who_looks_after_removes ON mailbox_users FOR DELETE TO fulvet_app USING (fulvet_looks_after(mailbox_id));
--> statement-breakpoint
CREATE POLICY who_looks_after ON folder_messages FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM mailbox_folders f WHERE f.id = folder_id));
--> statement-breakpoint
CREATE POLICY entitled ON gestures FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
-- Only running mailboxes are looked over for a lease that ran out.
CREATE INDEX mailboxes_running ON mailboxes (lease_until) WHERE state = 'running';
--> statement-breakpoint
-- Emails a day of a mailbox.
CREATE INDEX sightings_by_day ON sightings (mailbox_id, seen_at);
