-- Two roles, neither of which may pass by row security:
--   fulvet_app     requests of people; sees what the acting user of the transaction may see
--   fulvet_worker  ingest and decision; sees all mail, and serves no request
DO $$ BEGIN
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'fulvet_app') THEN CREATE ROLE fulvet_app NOLOGIN NOSUPERUSER NOBYPASSRLS; END IF;
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'fulvet_worker') THEN CREATE ROLE fulvet_worker NOLOGIN NOSUPERUSER NOBYPASSRLS; END IF;
EXCEPTION WHEN unique_violation OR duplicate_object THEN
  -- Roles are the cluster's: another database of it is being set up at this moment.
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'fulvet_app') THEN CREATE ROLE fulvet_app NOLOGIN NOSUPERUSER NOBYPASSRLS; END IF;
  IF NOT EXISTS (SELECT FROM pg_roles WHERE rolname = 'fulvet_worker') THEN CREATE ROLE fulvet_worker NOLOGIN NOSUPERUSER NOBYPASSRLS; END IF;
END $$;
--> statement-breakpoint
CREATE TABLE session (
  sid varchar NOT NULL PRIMARY KEY,
  sess json NOT NULL,
  expire timestamp(6) NOT NULL
);
--> statement-breakpoint
CREATE INDEX session_by_expiry ON session (expire);
--> statement-breakpoint
DO $$ BEGIN EXECUTE format('GRANT CREATE ON DATABASE %I TO fulvet_worker', current_database()); END $$;
--> statement-breakpoint
GRANT USAGE ON SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON ALL TABLES IN SCHEMA public TO fulvet_worker;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
-- Requests read mail; only the worker writes it.
GRANT SELECT ON emails, email_contents, dockets, participants, attachments, sightings, filings, blobs, import_items TO fulvet_app;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON workspace, users, access_tokens, session, mailboxes, accounts, account_domains, contacts, leads,
  person_addresses, deals, deal_people, rulebooks, undo_steps, imports, decide_runs TO fulvet_app;
--> statement-breakpoint
-- The user for whom the transaction acts; null outside of one, and then nothing is seen.
CREATE FUNCTION fulvet_acting_user() RETURNS bigint LANGUAGE sql STABLE PARALLEL SAFE AS
$$ SELECT nullif(current_setting('fulvet.user_id', true), '')::bigint $$;
--> statement-breakpoint
CREATE FUNCTION fulvet_acting_admin() RETURNS boolean LANGUAGE sql STABLE PARALLEL SAFE AS
$$ SELECT EXISTS (SELECT FROM users WHERE id = fulvet_acting_user() AND role = 'admin' AND active) $$;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['emails', 'email_contents', 'dockets', 'participants', 'attachments', 'sightings', 'filings', 'thread_ids', 'imports', 'decide_runs',
    'import_items', 'accounts', 'account_domains', 'contacts', 'leads', 'person_addresses', 'deals', 'deal_people', 'rulebooks', 'undo_steps', 'mailboxes', 'blobs']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
  -- Records and rulebooks: everybody who is signed in. Which role may change them is the routes' permission.
  FOREACH name IN ARRAY ARRAY['accounts', 'account_domains', 'contacts', 'leads', 'person_addresses', 'deals', 'deal_people', 'rulebooks', 'undo_steps', 'mailboxes', 'decide_runs']
  LOOP
    EXECUTE format('CREATE POLICY signed_in ON %I TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- That an email exists, and how it was decided: those who may read it, and administrators.
CREATE POLICY entitled_or_admin ON emails FOR SELECT TO fulvet_app USING (
  (visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
  OR (SELECT fulvet_acting_user()) = ANY (owner_ids)
  OR (SELECT fulvet_acting_admin())
);
--> statement-breakpoint
CREATE POLICY with_email ON sightings FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id));
--> statement-breakpoint
CREATE POLICY with_email ON filings FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id));
--> statement-breakpoint
-- What an email says: those who may read it, and nobody by being an administrator.
CREATE POLICY entitled ON email_contents FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
CREATE POLICY entitled ON dockets FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
CREATE POLICY entitled ON participants FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
CREATE POLICY entitled ON attachments FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.id = email_id AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
CREATE POLICY entitled ON blobs FOR SELECT TO fulvet_app USING (EXISTS (
  SELECT FROM emails e WHERE e.blob = sha256 AND e.outcome <> 'kept out' AND (e.visibility = 'everyone' OR (SELECT fulvet_acting_user()) = ANY (e.owner_ids))));
--> statement-breakpoint
CREATE INDEX emails_by_blob ON emails (blob);
--> statement-breakpoint
CREATE POLICY own_or_admin ON imports TO fulvet_app
  USING (user_id = (SELECT fulvet_acting_user()) OR (SELECT fulvet_acting_admin()))
  WITH CHECK (user_id = (SELECT fulvet_acting_user()) OR (SELECT fulvet_acting_admin()));
--> statement-breakpoint
CREATE POLICY with_import ON import_items FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM imports i WHERE i.id = import_id));
--> statement-breakpoint
-- Full text search. The text operators are not leakproof, so under row security PostgreSQL would not use the text index;
-- this function holds the same condition in its own query instead.
CREATE FUNCTION fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT e.id FROM email_contents c JOIN emails e ON e.id = c.email_id
  WHERE c.search @@ websearch_to_tsquery('simple', words)
    AND fulvet_acting_user() IS NOT NULL
    AND (e.visibility = 'everyone' OR fulvet_acting_user() = ANY (e.owner_ids))
  ORDER BY e.sent_at DESC LIMIT at_most
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_search_emails(text, integer) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_search_emails(text, integer) TO fulvet_app;
--> statement-breakpoint
-- An address or domain filter has the same reason: it is asked for what the acting user may read.
CREATE FUNCTION fulvet_emails_with_address(wanted text) RETURNS TABLE (email_id bigint)
LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT DISTINCT e.id FROM participants p JOIN emails e ON e.id = p.email_id
  WHERE p.address = wanted AND fulvet_acting_user() IS NOT NULL
    AND (e.visibility = 'everyone' OR fulvet_acting_user() = ANY (e.owner_ids))
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_emails_with_address(text) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_emails_with_address(text) TO fulvet_app;
--> statement-breakpoint
-- Addresses without their +tag: two spellings of one mailbox are found together.
CREATE INDEX participants_by_untagged ON participants (regexp_replace(address, '\+[^@]*@', '@'));
