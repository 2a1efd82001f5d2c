-- Staged decisions name what emails say: they are the worker's alone.
GRANT SELECT, INSERT, UPDATE, DELETE ON run_staged TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE run_staged ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON run_staged TO fulvet_worker USING (true) WITH CHECK (true);
