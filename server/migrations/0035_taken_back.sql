CREATE TABLE "run_taken_back" (
	"run_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"gone" boolean NOT NULL,
	"stood" jsonb NOT NULL,
	CONSTRAINT "run_taken_back_run_id_kind_record_id_pk" PRIMARY KEY("run_id","kind","record_id")
);
--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "without_made" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "taken_back" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "run_taken_back" ADD CONSTRAINT "run_taken_back_run_id_decide_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."decide_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON run_taken_back TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE run_taken_back ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
-- No request reads it: it holds what is gone.
CREATE POLICY worker_all ON run_taken_back TO fulvet_worker USING (true) WITH CHECK (true);
