CREATE TABLE "delivery_failures" (
	"email_id" bigint NOT NULL,
	"person" text NOT NULL,
	"reported_id" text NOT NULL,
	CONSTRAINT "delivery_failures_email_id_person_pk" PRIMARY KEY("email_id","person")
);
--> statement-breakpoint
ALTER TABLE "delivery_failures" ADD CONSTRAINT "delivery_failures_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "delivery_failures_by_person" ON "delivery_failures" USING btree ("person");
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON delivery_failures TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE delivery_failures ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON delivery_failures TO fulvet_worker USING (true) WITH CHECK (true);
