CREATE TABLE "run_befores" (
	"run_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"email" jsonb NOT NULL,
	"filings" jsonb,
	"docket" jsonb,
	CONSTRAINT "run_befores_run_id_email_id_pk" PRIMARY KEY("run_id","email_id")
);
--> statement-breakpoint
CREATE TABLE "run_created" (
	"run_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	CONSTRAINT "run_created_run_id_kind_record_id_pk" PRIMARY KEY("run_id","kind","record_id")
);
--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "version" integer;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "undone_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "run_befores" ADD CONSTRAINT "run_befores_run_id_decide_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."decide_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "run_created" ADD CONSTRAINT "run_created_run_id_decide_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."decide_runs"("id") ON DELETE cascade ON UPDATE no action;