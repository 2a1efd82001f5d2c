CREATE TABLE "own_kinds" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "own_kinds_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"key" text NOT NULL,
	"singular" text NOT NULL,
	"plural" text NOT NULL,
	"icon" text NOT NULL,
	"prefix" text NOT NULL,
	"last_number" integer DEFAULT 0 NOT NULL,
	"states" jsonb NOT NULL,
	"has_people" boolean DEFAULT true NOT NULL,
	"has_account" boolean DEFAULT true NOT NULL,
	"has_addresses" boolean DEFAULT false NOT NULL,
	"seen_by_teams" bigint[] DEFAULT '{}' NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "own_kinds_has_states" CHECK (jsonb_array_length("own_kinds"."states") > 0)
);
--> statement-breakpoint
CREATE TABLE "own_record_addresses" (
	"record_id" bigint NOT NULL,
	"address" text NOT NULL,
	CONSTRAINT "own_record_addresses_record_id_address_pk" PRIMARY KEY("record_id","address")
);
--> statement-breakpoint
CREATE TABLE "own_record_people" (
	"record_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"person_id" bigint NOT NULL,
	"role" text DEFAULT '' NOT NULL,
	CONSTRAINT "own_record_people_record_id_kind_person_id_pk" PRIMARY KEY("record_id","kind","person_id")
);
--> statement-breakpoint
CREATE TABLE "own_records" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "own_records_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind_id" bigint NOT NULL,
	"name" text NOT NULL,
	"code" text NOT NULL,
	"account_id" bigint,
	"owner_id" bigint,
	"state" text NOT NULL,
	"open" boolean DEFAULT true NOT NULL,
	"opened_on" date DEFAULT current_date NOT NULL,
	"closed_on" date,
	"own" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"origin_email_id" bigint,
	"origin_rule" text,
	"filing_code" text DEFAULT substr(replace(gen_random_uuid()::text, '-', ''), 1, 12) NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "mailbox_folders" DROP CONSTRAINT "mailbox_folders_file_as_known";--> statement-breakpoint
ALTER TABLE "filings" DROP CONSTRAINT "filings_kind_known";--> statement-breakpoint
ALTER TABLE "own_fields" DROP CONSTRAINT "own_fields_kind_known";--> statement-breakpoint
ALTER TABLE "grants" DROP CONSTRAINT "grants_about";--> statement-breakpoint
ALTER TABLE "own_fields" ADD COLUMN "own_kind_id" bigint;--> statement-breakpoint
ALTER TABLE "own_record_addresses" ADD CONSTRAINT "own_record_addresses_record_id_own_records_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."own_records"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_record_people" ADD CONSTRAINT "own_record_people_record_id_own_records_id_fk" FOREIGN KEY ("record_id") REFERENCES "public"."own_records"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_records" ADD CONSTRAINT "own_records_kind_id_own_kinds_id_fk" FOREIGN KEY ("kind_id") REFERENCES "public"."own_kinds"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_records" ADD CONSTRAINT "own_records_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_records" ADD CONSTRAINT "own_records_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_records" ADD CONSTRAINT "own_records_origin_email_id_emails_id_fk" FOREIGN KEY ("origin_email_id") REFERENCES "public"."emails"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "own_kinds_key_once" ON "own_kinds" USING btree ("key");--> statement-breakpoint
CREATE UNIQUE INDEX "own_kinds_prefix_once" ON "own_kinds" USING btree (upper("prefix"));--> statement-breakpoint
CREATE UNIQUE INDEX "own_kinds_singular_once" ON "own_kinds" USING btree (lower("singular"));--> statement-breakpoint
CREATE INDEX "own_record_addresses_by_address" ON "own_record_addresses" USING btree ("address");--> statement-breakpoint
CREATE INDEX "own_record_people_by_person" ON "own_record_people" USING btree ("kind","person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "own_records_filing_code_once" ON "own_records" USING btree ("filing_code");--> statement-breakpoint
CREATE UNIQUE INDEX "own_records_code_once" ON "own_records" USING btree (upper("code"));--> statement-breakpoint
CREATE INDEX "own_records_by_account" ON "own_records" USING btree ("account_id");--> statement-breakpoint
CREATE INDEX "own_records_by_kind" ON "own_records" USING btree ("kind_id","open");--> statement-breakpoint
CREATE INDEX "own_records_by_origin" ON "own_records" USING btree ("origin_email_id");--> statement-breakpoint
ALTER TABLE "own_fields" ADD CONSTRAINT "own_fields_own_kind_id_own_kinds_id_fk" FOREIGN KEY ("own_kind_id") REFERENCES "public"."own_kinds"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_folders" ADD CONSTRAINT "mailbox_folders_file_as_known" CHECK ("mailbox_folders"."file_as" = 'rules' or "mailbox_folders"."file_as" in ('contact', 'lead', 'account', 'deal', 'own'));--> statement-breakpoint
ALTER TABLE "filings" ADD CONSTRAINT "filings_kind_known" CHECK ("filings"."kind" in ('contact', 'lead', 'account', 'deal', 'own'));--> statement-breakpoint
ALTER TABLE "own_fields" ADD CONSTRAINT "own_fields_of_kind" CHECK (("own_fields"."record_kind" = 'own') = ("own_fields"."own_kind_id" is not null));--> statement-breakpoint
ALTER TABLE "own_fields" ADD CONSTRAINT "own_fields_kind_known" CHECK ("own_fields"."record_kind" in ('contact', 'lead', 'account', 'deal', 'own'));--> statement-breakpoint
ALTER TABLE "grants" ADD CONSTRAINT "grants_about" CHECK (("grants"."scope" = 'record') = ("grants"."record_id" is not null and "grants"."record_kind" in ('contact', 'lead', 'account', 'deal', 'own')) and ("grants"."scope" <> 'record') = ("grants"."email_id" is not null));--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON own_kinds, own_records, own_record_people, own_record_addresses TO fulvet_app, fulvet_worker;
--> statement-breakpoint
GRANT USAGE, SELECT ON SEQUENCE own_kinds_id_seq, own_records_id_seq TO fulvet_app, fulvet_worker;
--> statement-breakpoint
ALTER TABLE own_kinds ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE own_records ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE own_record_people ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
ALTER TABLE own_record_addresses ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON own_kinds TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY worker_all ON own_records TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY worker_all ON own_record_people TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY worker_all ON own_record_addresses TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
-- What kinds there are, every member knows; administrators set them.
CREATE POLICY signed_in ON own_kinds FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
CREATE POLICY administrators ON own_kinds TO fulvet_app USING ((SELECT fulvet_acting_admin())) WITH CHECK ((SELECT fulvet_acting_admin()));
--> statement-breakpoint
-- Kinds whose records the acting user sees only as their owner: those of other teams.
CREATE FUNCTION fulvet_hidden_kinds() RETURNS bigint[] LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
  IF fulvet_acting_admin() THEN RETURN '{}'; END IF;
  RETURN ARRAY(SELECT k.id FROM own_kinds k WHERE cardinality(k.seen_by_teams) > 0
    AND NOT k.seen_by_teams && ARRAY(SELECT m.team_id FROM team_members m WHERE m.user_id = fulvet_acting_user()));
END $$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_hidden_kinds() FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_hidden_kinds() TO fulvet_app;
--> statement-breakpoint
-- Whether a record is in the acting user's reach: it has no owner, or one in their reach, or they work on it as a deal's team, or it is the account or one of the
-- people of such a deal, or of a record of an own kind. A record of an own kind is in the reach of its owner, and of others where its kind is theirs to see.
CREATE OR REPLACE FUNCTION fulvet_sees_record(record_kind text, wanted bigint) RETURNS boolean LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
  me bigint := fulvet_acting_user();
  owners bigint[];
BEGIN
  IF me IS NULL THEN RETURN false; END IF;
  owners := fulvet_record_owners();
  RETURN CASE record_kind
    WHEN 'deal' THEN EXISTS (SELECT FROM deals d WHERE d.id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
    WHEN 'own' THEN EXISTS (SELECT FROM own_records r WHERE r.id = wanted AND (r.owner_id = me
      OR (NOT r.kind_id = ANY (fulvet_hidden_kinds()) AND (r.owner_id IS NULL OR r.owner_id = ANY (owners) OR fulvet_all_records()))))
    WHEN 'account' THEN EXISTS (SELECT FROM accounts a WHERE a.id = wanted AND (a.owner_id IS NULL OR a.owner_id = ANY (owners)))
      OR EXISTS (SELECT FROM deals d WHERE d.account_id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
      OR EXISTS (SELECT FROM own_records r WHERE r.account_id = wanted AND r.owner_id = me)
    ELSE (CASE record_kind WHEN 'contact' THEN EXISTS (SELECT FROM contacts c WHERE c.id = wanted AND (c.owner_id IS NULL OR c.owner_id = ANY (owners)))
        ELSE EXISTS (SELECT FROM leads l WHERE l.id = wanted AND (l.owner_id IS NULL OR l.owner_id = ANY (owners))) END)
      OR EXISTS (SELECT FROM deal_people p JOIN deals d ON d.id = p.deal_id WHERE p.kind = record_kind AND p.person_id = wanted AND (d.owner_id IS NULL OR d.owner_id = ANY (owners) OR EXISTS (SELECT FROM deal_team t WHERE t.deal_id = d.id AND t.user_id = me)))
      OR EXISTS (SELECT FROM own_record_people p JOIN own_records r ON r.id = p.record_id WHERE p.kind = record_kind AND p.person_id = wanted AND r.owner_id = me)
  END;
END $$;
--> statement-breakpoint
CREATE POLICY in_reach ON own_records TO fulvet_app
  USING (owner_id = (SELECT fulvet_acting_user()) OR (NOT kind_id = ANY ((SELECT fulvet_hidden_kinds())::bigint[])
    AND (SELECT fulvet_acting_user()) IS NOT NULL AND (owner_id IS NULL OR (SELECT fulvet_all_records()) OR owner_id = ANY ((SELECT fulvet_record_owners())::bigint[]))))
  WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL AND (owner_id = (SELECT fulvet_acting_user()) OR NOT kind_id = ANY ((SELECT fulvet_hidden_kinds())::bigint[])));
--> statement-breakpoint
CREATE POLICY with_record ON own_record_people TO fulvet_app USING (EXISTS (SELECT FROM own_records r WHERE r.id = record_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
CREATE POLICY with_record ON own_record_addresses TO fulvet_app USING (EXISTS (SELECT FROM own_records r WHERE r.id = record_id)) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
ALTER POLICY with_record ON record_changes USING ((kind <> 'own' AND (SELECT fulvet_all_records())) OR fulvet_sees_record(kind, record_id));
--> statement-breakpoint
ALTER POLICY with_record ON merges USING ((kind <> 'own' AND (SELECT fulvet_all_records())) OR fulvet_sees_record(kind, kept_id));
--> statement-breakpoint
CREATE TRIGGER guard_owner BEFORE UPDATE OF owner_id ON own_records FOR EACH ROW EXECUTE FUNCTION fulvet_guard_owner('own');
--> statement-breakpoint
CREATE OR REPLACE VIEW records WITH (security_invoker) AS
  SELECT 'account' AS kind, id, name, owner_id FROM accounts
  UNION ALL SELECT 'contact', id, name, owner_id FROM contacts
  UNION ALL SELECT 'lead', id, name, owner_id FROM leads
  UNION ALL SELECT 'deal', id, name, owner_id FROM deals
  UNION ALL SELECT 'own', id, code || ' ' || name, owner_id FROM own_records;
--> statement-breakpoint
-- The next number of a kind; whoever starts a record takes one, and no number is given twice.
CREATE FUNCTION fulvet_next_own_code(wanted bigint) RETURNS text LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS
$$ UPDATE own_kinds SET last_number = last_number + 1 WHERE id = wanted RETURNING prefix || '-' || last_number $$;
--> statement-breakpoint
-- A record that brings its number: later ones are higher.
CREATE FUNCTION fulvet_keep_own_number(wanted bigint, number integer) RETURNS void LANGUAGE sql VOLATILE SECURITY DEFINER SET search_path = public, pg_temp AS
$$ UPDATE own_kinds SET last_number = greatest(last_number, number) WHERE id = wanted $$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_next_own_code(bigint), fulvet_keep_own_number(bigint, integer) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_next_own_code(bigint), fulvet_keep_own_number(bigint, integer) TO fulvet_app, fulvet_worker;
--> statement-breakpoint
DO $$
BEGIN
  IF EXISTS (SELECT FROM pg_extension WHERE extname = 'pg_trgm') THEN
    CREATE INDEX own_records_name_parts ON own_records USING gin (name gin_trgm_ops);
    CREATE INDEX own_records_code_parts ON own_records USING gin (code gin_trgm_ops);
  END IF;
END $$;
