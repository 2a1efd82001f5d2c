ALTER TABLE "emails" ADD COLUMN "identity_version" integer DEFAULT 1 NOT NULL;--> statement-breakpoint
ALTER TABLE "sightings" ADD COLUMN "names_bcc" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "sightings" ADD COLUMN "is_senders" boolean DEFAULT false NOT NULL;--> statement-breakpoint
-- Blind copies that are known today stay known to those who hold a mailbox of the sender's.
UPDATE sightings s SET is_senders = true, names_bcc = true FROM mailboxes m WHERE m.id = s.mailbox_id
  AND EXISTS (SELECT FROM participants p WHERE p.email_id = s.email_id AND p.role = 'from' AND (p.address = m.address OR p.address = ANY (m.aliases)))
  AND EXISTS (SELECT FROM participants p WHERE p.email_id = s.email_id AND p.role = 'bcc');
--> statement-breakpoint
-- Whether the acting user uses a mailbox whose copy of the email names the blind copies.
CREATE FUNCTION fulvet_holds_bcc(wanted bigint) RETURNS boolean LANGUAGE sql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public, pg_temp AS $$
  SELECT EXISTS (SELECT FROM sightings s JOIN mailboxes m ON m.id = s.mailbox_id WHERE s.email_id = wanted AND s.names_bcc
    AND (m.owner_id = fulvet_acting_user() OR EXISTS (SELECT FROM mailbox_users u WHERE u.mailbox_id = m.id AND u.user_id = fulvet_acting_user())))
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_holds_bcc(bigint) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_holds_bcc(bigint) TO fulvet_app, fulvet_worker;
--> statement-breakpoint
CREATE POLICY bcc_of_its_holders ON participants AS RESTRICTIVE FOR SELECT TO fulvet_app USING (role <> 'bcc' OR fulvet_holds_bcc(email_id));
--> statement-breakpoint
-- Blind copies that the acting user must not learn of: what a decision says about them is left out by these.
CREATE FUNCTION fulvet_hidden_bcc(wanted bigint) RETURNS text[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS $$
  SELECT coalesce(array_agg(DISTINCT p.address), '{}') FROM participants p WHERE p.email_id = wanted AND p.role = 'bcc' AND NOT fulvet_holds_bcc(wanted)
    AND NOT EXISTS (SELECT FROM participants o WHERE o.email_id = wanted AND o.role <> 'bcc' AND o.address = p.address)
$$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_hidden_bcc(bigint) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_hidden_bcc(bigint) TO fulvet_app;
--> statement-breakpoint
DO $$ BEGIN
  EXECUTE replace(pg_get_functiondef('fulvet_emails_with_address(text)'::regprocedure), 'p.address = wanted', 'p.address = wanted AND (p.role <> ''bcc'' OR fulvet_holds_bcc(p.email_id))');
END $$;
