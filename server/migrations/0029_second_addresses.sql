ALTER TABLE "repairs" ADD COLUMN "addresses" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
CREATE INDEX "contacts_by_name" ON "contacts" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "leads_by_name" ON "leads" USING btree (lower("name"));