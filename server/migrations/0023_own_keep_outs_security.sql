GRANT SELECT, INSERT, UPDATE, DELETE ON own_keep_outs TO fulvet_worker, fulvet_app;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_app, fulvet_worker;
--> statement-breakpoint
ALTER TABLE own_keep_outs ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON own_keep_outs TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
-- Whom somebody keeps out of their mail is theirs alone to know.
CREATE POLICY own ON own_keep_outs TO fulvet_app USING (user_id = (SELECT fulvet_acting_user())) WITH CHECK (user_id = (SELECT fulvet_acting_user()));
