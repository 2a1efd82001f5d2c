CREATE TABLE "sign_in_attempts" (
	"key_hash" text PRIMARY KEY NOT NULL,
	"failures" integer NOT NULL,
	"since" timestamp with time zone NOT NULL
);
--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "interruptions" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON sign_in_attempts TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE sign_in_attempts ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
-- No request reads it: it says who was tried.
CREATE POLICY worker_all ON sign_in_attempts TO fulvet_worker USING (true) WITH CHECK (true);
