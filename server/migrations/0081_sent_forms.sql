CREATE TABLE "sent_forms" (
	"identity" text PRIMARY KEY NOT NULL,
	"message_id" text NOT NULL,
	"kept_as" text NOT NULL
);
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON sent_forms TO fulvet_worker;--> statement-breakpoint
ALTER TABLE sent_forms ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON sent_forms TO fulvet_worker USING (true) WITH CHECK (true);
