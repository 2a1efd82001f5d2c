-- Without the default for what is there: whoever connected a mailbox before is asked.
ALTER TABLE "mailboxes" ADD COLUMN "copies_agreed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mailboxes" ALTER COLUMN "copies_agreed_at" SET DEFAULT now();
