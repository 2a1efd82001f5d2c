CREATE TABLE "late_activity" (
	"deal_id" bigint PRIMARY KEY NOT NULL,
	"since" timestamp with time zone NOT NULL,
	"touched_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "late_activity" ADD CONSTRAINT "late_activity_deal_id_deals_id_fk" FOREIGN KEY ("deal_id") REFERENCES "public"."deals"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON late_activity TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE late_activity ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON late_activity TO fulvet_worker USING (true) WITH CHECK (true);
