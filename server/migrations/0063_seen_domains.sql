CREATE TABLE "seen_domains" (
	"domain" text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
CREATE INDEX "seen_domains_from_the_end" ON "seen_domains" USING btree (reverse("domain") text_pattern_ops);--> statement-breakpoint
CREATE INDEX "emails_sealed" ON "emails" USING btree ("id") WHERE "emails"."outcome" = 'sealed';--> statement-breakpoint
ALTER TABLE seen_domains ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON seen_domains TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON seen_domains TO fulvet_worker;--> statement-breakpoint
INSERT INTO seen_domains (domain) SELECT DISTINCT unnest(external_domains) FROM emails ON CONFLICT DO NOTHING;
