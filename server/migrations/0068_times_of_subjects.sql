DROP INDEX "thread_hashes_by_subject";--> statement-breakpoint
ALTER TABLE "thread_hashes" ADD COLUMN "sent_at" timestamp with time zone;--> statement-breakpoint
UPDATE thread_hashes h SET sent_at = e.sent_at FROM emails e WHERE e.id = h.email_id;--> statement-breakpoint
ALTER TABLE "thread_hashes" ALTER COLUMN "sent_at" SET NOT NULL;--> statement-breakpoint
CREATE INDEX "emails_of_former_identity" ON "emails" USING btree ("identity") WHERE "emails"."identity_version" = 1;--> statement-breakpoint
CREATE INDEX "thread_hashes_by_subject_and_time" ON "thread_hashes" USING btree ("subject","sent_at") WHERE "thread_hashes"."subject" <> '';