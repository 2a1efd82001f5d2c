-- The role of who leads a team is called manager. Accounts, tokens and invitations keep what they may.
ALTER TABLE "users" DROP CONSTRAINT "users_role_known";
--> statement-breakpoint
UPDATE users SET role = 'manager' WHERE role = 'lead';
--> statement-breakpoint
UPDATE invitations SET role = 'manager' WHERE role = 'lead';
--> statement-breakpoint
ALTER TABLE "users" ADD CONSTRAINT "users_role_known" CHECK ("users"."role" in ('admin', 'manager', 'rep', 'viewer'));
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_record_owners() RETURNS bigint[] LANGUAGE plpgsql STABLE PARALLEL SAFE SECURITY DEFINER SET search_path = public, pg_temp AS $$
BEGIN
  RETURN (SELECT array_agg(id) FROM (
    SELECT fulvet_acting_user() AS id UNION
    SELECT o.user_id FROM team_members m JOIN team_members o ON o.team_id = m.team_id
    WHERE m.user_id = fulvet_acting_user() AND ((SELECT record_reach FROM workspace) = 'team' OR (SELECT role FROM users WHERE id = fulvet_acting_user()) = 'manager')) reach);
END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_guard_owner() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public, pg_temp AS $$
DECLARE
  acting bigint := fulvet_acting_user();
  acting_role text;
BEGIN
  IF acting IS NULL OR NEW.owner_id IS NOT DISTINCT FROM OLD.owner_id OR OLD.owner_id = acting THEN RETURN NEW; END IF;
  SELECT role INTO acting_role FROM users WHERE id = acting;
  IF acting_role = 'manager' OR (acting_role = 'admin' AND NEW.owner_id IS DISTINCT FROM acting) THEN RETURN NEW; END IF;
  IF OLD.owner_id IS NULL AND NOT EXISTS (SELECT FROM filings f WHERE f.kind = TG_ARGV[0] AND f.record_id = OLD.id)
    AND NOT (TG_ARGV[0] = 'account' AND EXISTS (SELECT FROM deals d JOIN filings f ON f.kind = 'deal' AND f.record_id = d.id WHERE d.account_id = OLD.id)) THEN RETURN NEW; END IF;
  -- Whoever gave it away last takes it back.
  IF (SELECT c.user_id = acting AND c.before = u.email FROM record_changes c JOIN users u ON u.id = acting
      WHERE c.kind = TG_ARGV[0] AND c.record_id = OLD.id AND c.field = 'owner' ORDER BY c.id DESC LIMIT 1) THEN RETURN NEW; END IF;
  RAISE EXCEPTION 'records are taken over from their owner or by a manager' USING ERRCODE = '42501', HINT = 'taken-over';
END $$;
--> statement-breakpoint
DROP POLICY concerned ON emergencies;
--> statement-breakpoint
CREATE POLICY concerned ON emergencies FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IN (asked_by, owner_id) OR (SELECT fulvet_acting_admin()) OR EXISTS (SELECT FROM users u WHERE u.id = fulvet_acting_user() AND u.role = 'manager'));
--> statement-breakpoint
DROP POLICY answers ON emergencies;
--> statement-breakpoint
CREATE POLICY answers ON emergencies FOR UPDATE TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL)
  WITH CHECK (ended_by = (SELECT fulvet_acting_user()) OR (confirmed_by = (SELECT fulvet_acting_user()) AND EXISTS (SELECT FROM users u WHERE u.id = fulvet_acting_user() AND u.role IN ('admin', 'manager') AND u.active)));
