ALTER TABLE "email_contents" ADD COLUMN "word_pairs" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "email_contents" ADD COLUMN "reading" integer DEFAULT 0 NOT NULL;