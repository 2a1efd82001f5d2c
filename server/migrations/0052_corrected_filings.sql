CREATE TABLE "corrected_filings" (
	"repair_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"rule" text NOT NULL,
	CONSTRAINT "corrected_filings_repair_id_email_id_kind_record_id_pk" PRIMARY KEY("repair_id","email_id","kind","record_id")
);
--> statement-breakpoint
ALTER TABLE "corrected_filings" ADD CONSTRAINT "corrected_filings_repair_id_repairs_id_fk" FOREIGN KEY ("repair_id") REFERENCES "public"."repairs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "corrected_filings" ADD CONSTRAINT "corrected_filings_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "corrected_filings_by_rule" ON "corrected_filings" USING btree ("rule");--> statement-breakpoint
CREATE INDEX "corrected_filings_by_email" ON "corrected_filings" USING btree ("email_id");
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON corrected_filings TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT ON corrected_filings TO fulvet_app;
--> statement-breakpoint
ALTER TABLE corrected_filings ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON corrected_filings TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY admin_of_known_email ON corrected_filings FOR SELECT TO fulvet_app
  USING ((SELECT fulvet_acting_admin()) AND EXISTS (SELECT FROM emails e WHERE e.id = email_id) AND EXISTS (SELECT FROM repairs r WHERE r.id = repair_id));
