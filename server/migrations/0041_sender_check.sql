ALTER TABLE "emails" ADD COLUMN "sender_check" text DEFAULT 'none' NOT NULL;--> statement-breakpoint
ALTER TABLE "emails" ADD COLUMN "author_trusted" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "emails" ADD CONSTRAINT "emails_sender_check_known" CHECK ("emails"."sender_check" in ('passed', 'failed', 'none'));--> statement-breakpoint
-- What was believed when these came in is believed when their source is read again.
UPDATE emails SET author_trusted = true;
