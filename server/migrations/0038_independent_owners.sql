CREATE TABLE "account_powers" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "account_powers_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"by_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "account_powers" ADD CONSTRAINT "account_powers_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "account_powers" ADD CONSTRAINT "account_powers_by_id_users_id_fk" FOREIGN KEY ("by_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "account_powers_by_user" ON "account_powers" USING btree ("user_id","by_id");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON account_powers TO fulvet_worker;
--> statement-breakpoint
GRANT INSERT ON account_powers TO fulvet_app;
--> statement-breakpoint
ALTER TABLE account_powers ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON account_powers TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY noted ON account_powers FOR INSERT TO fulvet_app WITH CHECK (by_id = (SELECT fulvet_acting_user()));
--> statement-breakpoint
-- Who owns a record can come to read its mail: nobody takes one over for themselves, whatever the way. Its owner gives it, or a manager does; an
-- administrator gives it to others. A record without owner and without mail is anyone's to take up.
CREATE FUNCTION fulvet_guard_owner() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
  acting bigint := fulvet_acting_user();
  acting_role text;
BEGIN
  IF acting IS NULL OR NEW.owner_id IS NOT DISTINCT FROM OLD.owner_id OR OLD.owner_id = acting THEN RETURN NEW; END IF;
  SELECT role INTO acting_role FROM users WHERE id = acting;
  IF acting_role = 'lead' OR (acting_role = 'admin' AND NEW.owner_id IS DISTINCT FROM acting) THEN RETURN NEW; END IF;
  IF OLD.owner_id IS NULL AND NOT EXISTS (SELECT FROM filings f WHERE f.kind = TG_ARGV[0] AND f.record_id = OLD.id)
    AND NOT (TG_ARGV[0] = 'account' AND EXISTS (SELECT FROM deals d JOIN filings f ON f.kind = 'deal' AND f.record_id = d.id WHERE d.account_id = OLD.id)) THEN RETURN NEW; END IF;
  -- Whoever gave it away last takes it back.
  IF (SELECT c.user_id = acting AND c.before = u.email FROM record_changes c JOIN users u ON u.id = acting
      WHERE c.kind = TG_ARGV[0] AND c.record_id = OLD.id AND c.field = 'owner' ORDER BY c.id DESC LIMIT 1) THEN RETURN NEW; END IF;
  RAISE EXCEPTION 'records are taken over from their owner or by a manager' USING ERRCODE = '42501', HINT = 'taken-over';
END $$;
--> statement-breakpoint
CREATE TRIGGER guard_owner BEFORE UPDATE OF owner_id ON accounts FOR EACH ROW EXECUTE FUNCTION fulvet_guard_owner('account');
--> statement-breakpoint
CREATE TRIGGER guard_owner BEFORE UPDATE OF owner_id ON contacts FOR EACH ROW EXECUTE FUNCTION fulvet_guard_owner('contact');
--> statement-breakpoint
CREATE TRIGGER guard_owner BEFORE UPDATE OF owner_id ON leads FOR EACH ROW EXECUTE FUNCTION fulvet_guard_owner('lead');
--> statement-breakpoint
CREATE TRIGGER guard_owner BEFORE UPDATE OF owner_id ON deals FOR EACH ROW EXECUTE FUNCTION fulvet_guard_owner('deal');
--> statement-breakpoint
-- What runs with its owner's rights never looks into a schema that others fill.
DO $$
DECLARE wanted record;
BEGIN
  FOR wanted IN SELECT p.oid::regprocedure AS name FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace WHERE n.nspname = 'public' AND p.prosecdef
  LOOP
    EXECUTE format('ALTER FUNCTION %s SET search_path = public, pg_temp', wanted.name);
  END LOOP;
  EXECUTE format('REVOKE TEMP ON DATABASE %I FROM PUBLIC, fulvet_app, fulvet_worker', current_database());
END $$;
