CREATE TABLE "correspondents" (
	"address" text PRIMARY KEY NOT NULL,
	"wrote" boolean NOT NULL,
	"was_written" boolean NOT NULL,
	"is_known" boolean NOT NULL
);
--> statement-breakpoint
CREATE INDEX "correspondents_unknown" ON "correspondents" USING btree ("address") WHERE "correspondents"."wrote" AND "correspondents"."was_written" AND NOT "correspondents"."is_known";--> statement-breakpoint
ALTER TABLE correspondents ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON correspondents TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON correspondents TO fulvet_worker;--> statement-breakpoint
INSERT INTO correspondents (address, wrote, was_written, is_known)
  SELECT p.address, bool_or(p.role = 'from'), bool_or(p.role IN ('to', 'cc')), EXISTS (SELECT FROM person_addresses a WHERE a.address = p.address) FROM participants p GROUP BY p.address;--> statement-breakpoint
-- What is known already is not written again; what is new is written in one order, so that batches side by side wait for each other instead of failing.
CREATE FUNCTION fulvet_participants_added() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  INSERT INTO correspondents AS c (address, wrote, was_written, is_known)
  SELECT n.address, n.wrote, n.was_written, EXISTS (SELECT FROM person_addresses a WHERE a.address = n.address)
  FROM (SELECT address, bool_or(role = 'from') AS wrote, bool_or(role IN ('to', 'cc')) AS was_written FROM changed GROUP BY 1) n
  WHERE NOT EXISTS (SELECT FROM correspondents k WHERE k.address = n.address AND k.wrote >= n.wrote AND k.was_written >= n.was_written)
  ORDER BY n.address
  ON CONFLICT (address) DO UPDATE SET wrote = c.wrote OR EXCLUDED.wrote, was_written = c.was_written OR EXCLUDED.was_written;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER participants_added AFTER INSERT ON participants REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_participants_added();
--> statement-breakpoint
-- An address that no email has any more is forgotten. One that still has mail may keep a mark too many: whoever asks reads the mail itself.
CREATE FUNCTION fulvet_participants_removed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  DELETE FROM correspondents c USING (SELECT DISTINCT address FROM changed) g
  WHERE c.address = g.address AND NOT EXISTS (SELECT FROM participants p WHERE p.address = g.address);
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER participants_removed AFTER DELETE ON participants REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_participants_removed();
--> statement-breakpoint
CREATE FUNCTION fulvet_addresses_changed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  UPDATE correspondents c SET is_known = NOT c.is_known FROM (SELECT DISTINCT address FROM changed ORDER BY 1) g
  WHERE c.address = g.address AND c.is_known <> EXISTS (SELECT FROM person_addresses a WHERE a.address = g.address);
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER addresses_added AFTER INSERT ON person_addresses REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_addresses_changed();
--> statement-breakpoint
CREATE TRIGGER addresses_removed AFTER DELETE ON person_addresses REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_addresses_changed();
--> statement-breakpoint
CREATE TRIGGER addresses_changed_from AFTER UPDATE ON person_addresses REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_addresses_changed();
--> statement-breakpoint
CREATE TRIGGER addresses_changed_to AFTER UPDATE ON person_addresses REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_addresses_changed();
--> statement-breakpoint
-- Addresses with which mail went both ways and that no record has. Asked on behalf of a member; what mail there is with them is read under their own rights.
CREATE FUNCTION fulvet_unknown_correspondents() RETURNS TABLE (address text)
  LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT c.address FROM correspondents c WHERE c.wrote AND c.was_written AND NOT c.is_known AND fulvet_acting_user() IS NOT NULL $$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_unknown_correspondents() FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_unknown_correspondents() TO fulvet_app;
