CREATE TABLE "meetings" (
	"email_id" bigint NOT NULL,
	"uid" text NOT NULL,
	"sequence" integer NOT NULL,
	"cancelled" boolean NOT NULL,
	"starts_at" timestamp with time zone NOT NULL,
	"ends_at" timestamp with time zone NOT NULL,
	"summary" text NOT NULL,
	"location" text NOT NULL,
	CONSTRAINT "meetings_email_id_uid_pk" PRIMARY KEY("email_id","uid")
);
--> statement-breakpoint
ALTER TABLE "meetings" ADD CONSTRAINT "meetings_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "meetings_by_time" ON "meetings" USING btree ("starts_at");