CREATE TABLE "run_staged" (
	"run_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"place" integer NOT NULL,
	"decision" jsonb NOT NULL,
	CONSTRAINT "run_staged_run_id_email_id_pk" PRIMARY KEY("run_id","email_id")
);
--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "since" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "mailboxes" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "phase" text DEFAULT 'deciding' NOT NULL;--> statement-breakpoint
ALTER TABLE "rulebooks" ADD COLUMN "pilot_mailboxes" text[];--> statement-breakpoint
ALTER TABLE "rulebooks" ADD COLUMN "pilot_ended_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "run_staged" ADD CONSTRAINT "run_staged_run_id_decide_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."decide_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "run_staged_by_place" ON "run_staged" USING btree ("run_id","place");--> statement-breakpoint
CREATE UNIQUE INDEX "rulebooks_one_pilot" ON "rulebooks" USING btree ((true)) WHERE "rulebooks"."pilot_mailboxes" is not null and "rulebooks"."pilot_ended_at" is null;