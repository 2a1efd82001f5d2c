GRANT SELECT, INSERT, UPDATE, DELETE ON own_words, grants, access_requests, emergencies, deal_team, sealed_records, forgotten, erasures, retention,
  user_secrets, workspace_secrets, invitations TO fulvet_worker;
--> statement-breakpoint
-- Who leaves, leaves the teams.
GRANT DELETE ON team_members TO fulvet_worker;
--> statement-breakpoint
-- What was done stays as it was written: nobody changes or removes an entry.
GRANT SELECT, INSERT ON audit_log TO fulvet_worker, fulvet_app;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE ON own_words, grants, access_requests, emergencies TO fulvet_app;
--> statement-breakpoint
GRANT SELECT, INSERT, DELETE ON deal_team TO fulvet_app;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE ON retention, invitations TO fulvet_app;
--> statement-breakpoint
GRANT SELECT ON erasures TO fulvet_app;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
-- Whose mail the acting user may read now in a confirmed emergency.
CREATE FUNCTION fulvet_emergency_owners() RETURNS bigint[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT coalesce(array_agg(owner_id), '{}') FROM emergencies WHERE asked_by = fulvet_acting_user() AND until > now() AND ended_at IS NULL $$;
--> statement-breakpoint
-- Whether the acting user sees the records of everybody.
CREATE FUNCTION fulvet_all_records() RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT fulvet_acting_user() IS NOT NULL AND (fulvet_acting_admin() OR coalesce((SELECT record_reach = 'all' FROM workspace), true)) $$;
--> statement-breakpoint
-- Whose records the acting user sees: their own; those of their teams where the workspace says so, or where they lead.
CREATE FUNCTION fulvet_record_owners() RETURNS bigint[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT array_agg(id) FROM (
    SELECT fulvet_acting_user() AS id UNION
    SELECT o.user_id FROM team_members m JOIN team_members o ON o.team_id = m.team_id
    WHERE m.user_id = fulvet_acting_user() AND ((SELECT record_reach FROM workspace) = 'team' OR (SELECT role FROM users WHERE id = fulvet_acting_user()) = 'lead')) reach
$$;
--> statement-breakpoint
-- Whether a record is in the acting user's reach: it has no owner, or one in their reach, or they work on it as a deal's team, or it is the account or one of the
-- people of such a deal. One function and not conditions in every policy: those would be planned anew in every query, many times over.
CREATE FUNCTION fulvet_sees_record(record_kind text, wanted bigint) RETURNS boolean LANGUAGE plpgsql STABLE SECURITY DEFINER SET search_path = public AS $$
DECLARE
  me bigint := fulvet_acting_user();
  owners bigint[];
BEGIN
  IF me IS NULL THEN RETURN false; END IF;
  owners := fulvet_record_owners();
  RETURN CASE record_kind
    WHEN 'deal' THEN EXISTS (SELECT FROM deals d WHERE d.id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
    WHEN 'account' THEN EXISTS (SELECT FROM accounts a WHERE a.id = wanted AND (a.owner_id IS NULL OR a.owner_id = ANY (owners)))
      OR EXISTS (SELECT FROM deals d WHERE d.account_id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
    ELSE (CASE record_kind WHEN 'contact' THEN EXISTS (SELECT FROM contacts c WHERE c.id = wanted AND (c.owner_id IS NULL OR c.owner_id = ANY (owners)))
        ELSE EXISTS (SELECT FROM leads l WHERE l.id = wanted AND (l.owner_id IS NULL OR l.owner_id = ANY (owners))) END)
      OR EXISTS (SELECT FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = record_kind AND p.person_id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
  END;
END $$;
--> statement-breakpoint
-- Whether the acting user owns a record under which the email stands, or works on its deal.
CREATE OR REPLACE FUNCTION fulvet_on_record(wanted bigint) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT EXISTS (
    SELECT FROM filings f
      LEFT JOIN accounts a ON f.kind = 'account' AND a.id = f.record_id LEFT JOIN contacts c ON f.kind = 'contact' AND c.id = f.record_id
      LEFT JOIN leads l ON f.kind = 'lead' AND l.id = f.record_id LEFT JOIN deals d ON f.kind = 'deal' AND d.id = f.record_id
    WHERE f.email_id = wanted AND (coalesce(a.owner_id, c.owner_id, l.owner_id, d.owner_id) = fulvet_acting_user()
      OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = fulvet_acting_user())))
$$;
--> statement-breakpoint
-- Whether no email that the repair was about is sealed to the acting user.
CREATE FUNCTION fulvet_repair_known(wanted bigint) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS
$$ SELECT NOT EXISTS (SELECT FROM pins p JOIN emails e ON e.id = p.email_id WHERE p.repair_id = wanted AND e.outcome = 'sealed' AND NOT fulvet_acting_user() = ANY (e.owner_ids)) $$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_emergency_owners(), fulvet_all_records(), fulvet_record_owners(), fulvet_sees_record(text, bigint), fulvet_repair_known(bigint) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_emergency_owners(), fulvet_all_records(), fulvet_record_owners(), fulvet_sees_record(text, bigint), fulvet_repair_known(bigint) TO fulvet_app;
--> statement-breakpoint
-- Who knows of an email, and who reads it. Those who use its mailboxes: both. Nobody else knows of one that is sealed, or that is not decided
-- yet and may become so. Others know of it by its level, by an owner's word, in a confirmed emergency, or as administrators; they read it by the
-- first three, unless the level says that it exists only.
DO $$
DECLARE
  reached text := $c$((%1$s.visibility = 'everyone' AND (SELECT fulvet_acting_user()) IS NOT NULL)
    OR (%1$s.visibility = 'teams' AND %1$s.shared_teams && (SELECT fulvet_acting_teams()))
    OR (%1$s.visibility = 'record' AND fulvet_on_record(%1$s.id)))$c$;
  allowed text := $c$((SELECT fulvet_acting_user()) = ANY (%1$s.granted_ids) OR %1$s.owner_ids && (SELECT fulvet_emergency_owners()))$c$;
  reads text := format($c$((SELECT fulvet_acting_user()) = ANY (e.owner_ids) OR (e.outcome <> 'sealed' AND (%s OR (NOT e.existence_only AND %s))))$c$, format(allowed, 'e'), format(reached, 'e'));
  record_seen text := '((SELECT fulvet_all_records()) OR fulvet_sees_record(kind, record_id))';
  name text;
BEGIN
  DROP POLICY known ON emails;
  EXECUTE format('CREATE POLICY known ON emails FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) = ANY (emails.owner_ids) OR (emails.outcome <> ''sealed'' AND ((SELECT fulvet_acting_admin()) OR %s OR %s)))', format(allowed, 'emails'), format(reached, 'emails'));
  FOREACH name IN ARRAY ARRAY['email_contents', 'dockets', 'participants', 'attachments', 'gestures']
  LOOP
    EXECUTE format('DROP POLICY entitled ON %I', name);
    EXECUTE format('CREATE POLICY entitled ON %I FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id AND %s))', name, reads);
  END LOOP;
  DROP POLICY entitled ON trial_dockets;
  EXECUTE format('CREATE POLICY entitled ON trial_dockets FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM emails e WHERE e.id = email_id AND %s))', reads);
  DROP POLICY entitled ON blobs;
  EXECUTE format('CREATE POLICY entitled ON blobs FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.blob = sha256 AND e.outcome <> ''kept out'' AND %s))', reads);
  DROP POLICY with_email ON filings;
  EXECUTE format('CREATE POLICY with_email ON filings FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM emails e WHERE e.id = email_id AND (kind IN (''account'', ''deal'') OR (SELECT fulvet_acting_admin()) OR %s)) AND %s)', reads, record_seen);
  EXECUTE format($f$CREATE OR REPLACE FUNCTION fulvet_search_emails(words text, at_most integer) RETURNS TABLE (email_id bigint)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT e.id FROM email_contents c JOIN emails e ON e.id = c.email_id
    WHERE c.search @@ websearch_to_tsquery('simple', words) AND fulvet_acting_user() IS NOT NULL AND (%s)
    ORDER BY e.sent_at DESC LIMIT at_most $s$ $f$, reads);
  EXECUTE format($f$CREATE OR REPLACE FUNCTION fulvet_emails_with_address(wanted text) RETURNS TABLE (email_id bigint)
    LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $s$
    SELECT DISTINCT e.id FROM participants p JOIN emails e ON e.id = p.email_id
    WHERE p.address = wanted AND fulvet_acting_user() IS NOT NULL AND (%s) $s$ $f$, reads);

  -- Records: everybody's, or those in reach. Who works on a deal sees it, its account and its people.
  EXECUTE 'DROP POLICY signed_in ON deals';
  EXECUTE $p$CREATE POLICY in_reach ON deals TO fulvet_app USING ((SELECT fulvet_all_records()) OR ((SELECT fulvet_acting_user()) IS NOT NULL AND (owner_id IS NULL OR owner_id = ANY ((SELECT fulvet_record_owners())::bigint[])
    OR fulvet_sees_record('deal', id)))) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  EXECUTE 'DROP POLICY signed_in ON accounts';
  EXECUTE $p$CREATE POLICY in_reach ON accounts TO fulvet_app USING ((SELECT fulvet_all_records()) OR ((SELECT fulvet_acting_user()) IS NOT NULL AND (owner_id IS NULL OR owner_id = ANY ((SELECT fulvet_record_owners())::bigint[])
    OR fulvet_sees_record('account', id)))) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  FOREACH name IN ARRAY ARRAY['contact', 'lead']
  LOOP
    EXECUTE format('DROP POLICY signed_in ON %I', name || 's');
    EXECUTE format($p$CREATE POLICY in_reach ON %1$I TO fulvet_app USING ((SELECT fulvet_all_records()) OR ((SELECT fulvet_acting_user()) IS NOT NULL AND (owner_id IS NULL OR owner_id = ANY ((SELECT fulvet_record_owners())::bigint[])
      OR fulvet_sees_record(%2$L, id)))) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$, name || 's', name);
  END LOOP;
  EXECUTE 'DROP POLICY signed_in ON deal_people';
  EXECUTE $p$CREATE POLICY with_record ON deal_people TO fulvet_app USING ((SELECT fulvet_all_records()) OR fulvet_sees_record('deal', deal_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  EXECUTE 'DROP POLICY signed_in ON account_domains';
  EXECUTE $p$CREATE POLICY with_record ON account_domains TO fulvet_app USING ((SELECT fulvet_all_records()) OR fulvet_sees_record('account', account_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  EXECUTE 'DROP POLICY signed_in ON contact_accounts';
  EXECUTE $p$CREATE POLICY with_record ON contact_accounts TO fulvet_app USING ((SELECT fulvet_all_records()) OR fulvet_sees_record('contact', contact_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  EXECUTE 'DROP POLICY signed_in ON person_addresses';
  EXECUTE $p$CREATE POLICY with_record ON person_addresses TO fulvet_app USING ((SELECT fulvet_all_records()) OR fulvet_sees_record(kind, person_id))
    WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)$p$;
  EXECUTE 'DROP POLICY signed_in ON record_changes';
  EXECUTE format('CREATE POLICY with_record ON record_changes TO fulvet_app USING (%s) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL)', record_seen);
END $$;
--> statement-breakpoint
DROP POLICY signed_in ON merges;
--> statement-breakpoint
CREATE POLICY with_record ON merges TO fulvet_app USING ((SELECT fulvet_all_records()) OR fulvet_sees_record(kind, kept_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
DROP POLICY own_or_admin ON repairs;
--> statement-breakpoint
-- A repair names people and records: administrators see it as long as none of its emails is sealed to them.
CREATE POLICY own_or_admin ON repairs FOR SELECT TO fulvet_app USING (user_id = (SELECT fulvet_acting_user()) OR (NOT sealed AND (SELECT fulvet_acting_admin()) AND fulvet_repair_known(id)));
--> statement-breakpoint
DROP POLICY with_import ON import_items;
--> statement-breakpoint
CREATE POLICY with_import ON import_items FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM imports i WHERE i.id = import_id) AND (email_id IS NULL OR EXISTS (SELECT FROM emails e WHERE e.id = email_id)));
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['own_words', 'grants', 'access_requests', 'emergencies', 'deal_team', 'sealed_records', 'forgotten', 'erasures', 'retention', 'user_secrets', 'workspace_secrets', 'invitations', 'audit_log']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- A word about one's own mail is known to nobody else.
CREATE POLICY own ON own_words TO fulvet_app USING (user_id = (SELECT fulvet_acting_user())) WITH CHECK (user_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
CREATE POLICY giver ON grants TO fulvet_app USING (by_user_id = (SELECT fulvet_acting_user())) WITH CHECK (by_user_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
CREATE POLICY reader ON grants FOR SELECT TO fulvet_app USING (to_user_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
CREATE POLICY between_two ON access_requests TO fulvet_app USING ((SELECT fulvet_acting_user()) IN (asked_by, owner_id)) WITH CHECK ((SELECT fulvet_acting_user()) IN (asked_by, owner_id));
--> statement-breakpoint
CREATE POLICY concerned ON emergencies FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IN (asked_by, owner_id) OR (SELECT fulvet_acting_admin()) OR EXISTS (SELECT FROM users u WHERE u.id = fulvet_acting_user() AND u.role = 'lead'));
--> statement-breakpoint
CREATE POLICY asks ON emergencies FOR INSERT TO fulvet_app WITH CHECK ((SELECT fulvet_acting_admin()) AND asked_by = (SELECT fulvet_acting_user()) AND owner_id <> asked_by AND confirmed_by IS NULL AND until IS NULL);
--> statement-breakpoint
CREATE POLICY answers ON emergencies FOR UPDATE TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL)
  WITH CHECK (ended_by = (SELECT fulvet_acting_user()) OR (confirmed_by = (SELECT fulvet_acting_user()) AND EXISTS (SELECT FROM users u WHERE u.id = fulvet_acting_user() AND u.role IN ('admin', 'lead') AND u.active)));
--> statement-breakpoint
CREATE POLICY signed_in ON deal_team FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
CREATE POLICY with_deal ON deal_team FOR INSERT TO fulvet_app WITH CHECK (EXISTS (SELECT FROM deals d WHERE d.id = deal_id));
--> statement-breakpoint
CREATE POLICY with_deal_too ON deal_team FOR DELETE TO fulvet_app USING (EXISTS (SELECT FROM deals d WHERE d.id = deal_id));
--> statement-breakpoint
CREATE POLICY administrators ON erasures FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()));
--> statement-breakpoint
CREATE POLICY administrators ON retention TO fulvet_app USING ((SELECT fulvet_acting_admin())) WITH CHECK ((SELECT fulvet_acting_admin()));
--> statement-breakpoint
CREATE POLICY administrators ON invitations TO fulvet_app USING ((SELECT fulvet_acting_admin())) WITH CHECK ((SELECT fulvet_acting_admin()));
--> statement-breakpoint
-- Administrators see the workspace's entries, everybody those that they made or that concern them; none about an email that they may not know of.
CREATE POLICY concerned ON audit_log FOR SELECT TO fulvet_app USING (
  ((chain = 'workspace' AND (SELECT fulvet_acting_admin())) OR (SELECT fulvet_acting_user()) IN (actor_id, subject_id))
  AND (email_id IS NULL OR EXISTS (SELECT FROM emails e WHERE e.id = email_id)));
--> statement-breakpoint
CREATE POLICY own ON audit_log FOR INSERT TO fulvet_app WITH CHECK (actor_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
-- One entry after another in each chain, with the hash of the one before; whatever is given for place, time and hashes is put right here.
CREATE FUNCTION fulvet_chain_audit() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE before record;
BEGIN
  PERFORM pg_advisory_xact_lock(460210, hashtext(NEW.chain));
  SELECT place, hash INTO before FROM audit_log WHERE chain = NEW.chain ORDER BY place DESC LIMIT 1;
  NEW.place := coalesce(before.place, 0) + 1;
  NEW.previous := coalesce(before.hash, '');
  NEW.at := clock_timestamp();
  NEW.actor := replace(NEW.actor, chr(31), ' ');
  NEW.about := replace(NEW.about, chr(31), ' ');
  NEW.hash := encode(sha256(convert_to(array_to_string(ARRAY[NEW.previous, NEW.chain, NEW.place::text, to_char(NEW.at AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS.US"Z"'),
    NEW.actor_id::text, NEW.actor, NEW.kind, NEW.about, NEW.email_id::text, NEW.subject_id::text], chr(31), ''), 'UTF8')), 'hex');
  RETURN NEW;
END $$;
--> statement-breakpoint
CREATE TRIGGER audit_log_chain BEFORE INSERT ON audit_log FOR EACH ROW EXECUTE FUNCTION fulvet_chain_audit();
--> statement-breakpoint
CREATE FUNCTION fulvet_refuse() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN RAISE EXCEPTION 'The audit log is only added to.'; END $$;
--> statement-breakpoint
CREATE TRIGGER audit_log_stays BEFORE UPDATE OR DELETE OR TRUNCATE ON audit_log FOR EACH STATEMENT EXECUTE FUNCTION fulvet_refuse();
--> statement-breakpoint
-- Whom an owner lets read an email, from what the grants that stand cover.
CREATE FUNCTION fulvet_refresh_granted(these bigint[]) RETURNS void LANGUAGE sql SECURITY DEFINER SET search_path = public AS $$
  UPDATE emails e SET granted_ids = n.ids FROM (
    SELECT e.id, coalesce((SELECT array_agg(DISTINCT g.to_user_id ORDER BY g.to_user_id) FROM grants g WHERE g.withdrawn_at IS NULL AND g.by_user_id = ANY (e.owner_ids) AND CASE g.scope
        WHEN 'email' THEN g.email_id = e.id
        WHEN 'conversation' THEN EXISTS (SELECT FROM emails o WHERE o.id = g.email_id AND o.conversation_id = e.conversation_id)
        ELSE EXISTS (SELECT FROM filings f WHERE f.email_id = e.id AND ((f.kind = g.record_kind AND f.record_id = g.record_id)
          OR (g.record_kind = 'account' AND f.kind = 'deal' AND EXISTS (SELECT FROM deals d WHERE d.id = f.record_id AND d.account_id = g.record_id)))) END), '{}') AS ids
    FROM emails e WHERE e.id = ANY (these)) n
  WHERE e.id = n.id AND e.granted_ids IS DISTINCT FROM n.ids
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_refresh_granted(bigint[]) FROM PUBLIC;
--> statement-breakpoint
CREATE FUNCTION fulvet_grants_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  PERFORM fulvet_refresh_granted(ARRAY(
    SELECT g.email_id FROM changed g WHERE g.scope = 'email'
    UNION SELECT e.id FROM changed g JOIN emails a ON a.id = g.email_id JOIN emails e ON e.conversation_id = a.conversation_id WHERE g.scope = 'conversation'
    UNION SELECT f.email_id FROM changed g JOIN filings f ON f.kind = g.record_kind AND f.record_id = g.record_id WHERE g.scope = 'record'
    UNION SELECT f.email_id FROM changed g JOIN deals d ON d.account_id = g.record_id JOIN filings f ON f.kind = 'deal' AND f.record_id = d.id WHERE g.scope = 'record' AND g.record_kind = 'account'));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER grants_given AFTER INSERT ON grants REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_grants_changed();
--> statement-breakpoint
CREATE TRIGGER grants_changed_from AFTER UPDATE ON grants REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_grants_changed();
--> statement-breakpoint
CREATE TRIGGER grants_changed_to AFTER UPDATE ON grants REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_grants_changed();
--> statement-breakpoint
CREATE FUNCTION fulvet_filings_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  IF EXISTS (SELECT FROM grants WHERE scope = 'record' AND withdrawn_at IS NULL) THEN
    PERFORM fulvet_refresh_granted(ARRAY(SELECT DISTINCT email_id FROM changed));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER filings_put AFTER INSERT ON filings REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_filings_changed();
--> statement-breakpoint
CREATE TRIGGER filings_taken AFTER DELETE ON filings REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_filings_changed();
--> statement-breakpoint
CREATE FUNCTION fulvet_emails_added() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  IF EXISTS (SELECT FROM grants WHERE scope = 'conversation' AND withdrawn_at IS NULL) THEN
    PERFORM fulvet_refresh_granted(ARRAY(SELECT id FROM changed));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER emails_added AFTER INSERT ON emails REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_emails_added();
--> statement-breakpoint
-- Another owner, or another conversation: for all of the conversations that are touched, since the email may be the one that a grant names.
CREATE FUNCTION fulvet_emails_moved() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
DECLARE touched bigint[];
BEGIN
  IF NOT EXISTS (SELECT FROM grants WHERE withdrawn_at IS NULL) THEN RETURN NULL; END IF;
  touched := ARRAY(SELECT DISTINCT unnest(ARRAY[n.conversation_id, o.conversation_id]) FROM is_now n JOIN was o ON o.id = n.id
    WHERE n.owner_ids IS DISTINCT FROM o.owner_ids OR n.conversation_id <> o.conversation_id);
  -- The refreshing is an update of emails itself: it ends where nothing is touched any more.
  IF cardinality(touched) > 0 THEN
    PERFORM fulvet_refresh_granted(ARRAY(SELECT id FROM emails WHERE conversation_id = ANY (touched)));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER emails_moved AFTER UPDATE ON emails REFERENCING OLD TABLE AS was NEW TABLE AS is_now FOR EACH STATEMENT EXECUTE FUNCTION fulvet_emails_moved();
--> statement-breakpoint
CREATE FUNCTION fulvet_deals_moved() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  IF EXISTS (SELECT FROM grants WHERE record_kind = 'account' AND withdrawn_at IS NULL) THEN
    PERFORM fulvet_refresh_granted(ARRAY(SELECT DISTINCT f.email_id FROM is_now n JOIN was o ON o.id = n.id AND o.account_id IS DISTINCT FROM n.account_id JOIN filings f ON f.kind = 'deal' AND f.record_id = n.id));
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER deals_moved AFTER UPDATE ON deals REFERENCING OLD TABLE AS was NEW TABLE AS is_now FOR EACH STATEMENT EXECUTE FUNCTION fulvet_deals_moved();
--> statement-breakpoint
INSERT INTO retention (kind) VALUES ('keptOut'), ('loose'), ('closedDeals');
