GRANT SELECT, INSERT, UPDATE, DELETE ON meetings TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT ON meetings TO fulvet_app;
--> statement-breakpoint
ALTER TABLE meetings ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON meetings TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY entitled ON meetings FOR SELECT TO fulvet_app USING (EXISTS (SELECT FROM email_contents c WHERE c.email_id = meetings.email_id));
