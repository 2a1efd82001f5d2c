CREATE TABLE "trial_counted" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "trial_counted_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"trial_id" bigint NOT NULL,
	"outcome" text,
	"direction" text,
	"stops" jsonb NOT NULL,
	"email_ids" bigint[] NOT NULL
);
--> statement-breakpoint
ALTER TABLE "trial_counted" ADD CONSTRAINT "trial_counted_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "trial_counted_by_trial" ON "trial_counted" USING btree ("trial_id");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON trial_counted TO fulvet_worker;
--> statement-breakpoint
GRANT USAGE, SELECT ON ALL SEQUENCES IN SCHEMA public TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE trial_counted ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
-- No request reads it: who counted which email alike tells of mail that its reader may not know of.
CREATE POLICY worker_all ON trial_counted TO fulvet_worker USING (true) WITH CHECK (true);
