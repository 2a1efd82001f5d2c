-- Whose mail a member may read now in a confirmed emergency; asked before it is known on whose behalf a request acts.
CREATE FUNCTION fulvet_emergency_owners_of(reader bigint) RETURNS bigint[] LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public, pg_temp AS
$$ SELECT coalesce(array_agg(owner_id), '{}') FROM emergencies WHERE asked_by = reader AND until > now() AND ended_at IS NULL $$;
--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_emergency_owners_of(bigint) FROM PUBLIC;
--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_emergency_owners_of(bigint) TO fulvet_app;
