ALTER TABLE "workspace" ADD COLUMN "writing_rights" jsonb DEFAULT '{"send":{"role":"rep","teamIds":[]},"share":{"role":"manager","teamIds":[]}}'::jsonb NOT NULL;--> statement-breakpoint
CREATE FUNCTION fulvet_may_write(member bigint, wanted text) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT coalesce((SELECT u.active AND (u.role = 'admin' OR (
      array_position(ARRAY['rep', 'manager', 'admin'], u.role) >= array_position(ARRAY['rep', 'manager', 'admin'], w.writing_rights -> wanted ->> 'role')
      AND (jsonb_array_length(w.writing_rights -> wanted -> 'teamIds') = 0 OR EXISTS (
        SELECT FROM team_members t WHERE t.user_id = u.id AND w.writing_rights -> wanted -> 'teamIds' @> to_jsonb(t.team_id)))))
    FROM users u, workspace w WHERE u.id = member), false)
$$;--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_may_write(bigint, text) FROM PUBLIC;--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_may_write(bigint, text) TO fulvet_app, fulvet_worker;
