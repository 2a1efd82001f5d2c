CREATE TABLE "thread_hashes" (
	"email_id" bigint PRIMARY KEY NOT NULL,
	"subject" text NOT NULL,
	"people" text[] NOT NULL,
	"copied" text[] NOT NULL
);
--> statement-breakpoint
CREATE TABLE "thread_keys" (
	"key" text PRIMARY KEY NOT NULL
);
--> statement-breakpoint
DROP INDEX "email_contents_by_subject";--> statement-breakpoint
ALTER TABLE "thread_hashes" ADD CONSTRAINT "thread_hashes_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "thread_hashes_by_subject" ON "thread_hashes" USING btree ("subject") WHERE "thread_hashes"."subject" <> '';--> statement-breakpoint
ALTER TABLE "email_contents" DROP COLUMN "subject_key";--> statement-breakpoint
INSERT INTO thread_keys (key) VALUES (encode(sha256(convert_to(gen_random_uuid()::text || gen_random_uuid()::text, 'UTF8')), 'hex'));
--> statement-breakpoint
GRANT SELECT ON thread_keys TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON thread_hashes TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE thread_keys ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON thread_keys TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
ALTER TABLE thread_hashes ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON thread_hashes TO fulvet_worker USING (true) WITH CHECK (true);
