CREATE TABLE "trial_made" (
	"trial_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"again" boolean NOT NULL,
	CONSTRAINT "trial_made_trial_id_kind_record_id_pk" PRIMARY KEY("trial_id","kind","record_id")
);
--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "without_made" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "trial_made" ADD CONSTRAINT "trial_made_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trial_made" ADD CONSTRAINT "trial_made_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON trial_made TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT ON trial_made TO fulvet_app;
--> statement-breakpoint
ALTER TABLE trial_made ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON trial_made TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
-- As a row of the trial: for administrators who may know of the email that the record came from.
CREATE POLICY administrators ON trial_made FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM emails e WHERE e.id = email_id));
