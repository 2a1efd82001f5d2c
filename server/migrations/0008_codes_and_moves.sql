CREATE TABLE "contact_accounts" (
	"contact_id" bigint NOT NULL,
	"account_id" bigint NOT NULL,
	"until" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "contact_accounts_contact_id_until_pk" PRIMARY KEY("contact_id","until")
);
--> statement-breakpoint
ALTER TABLE "email_contents" ADD COLUMN "codes" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "deals" ADD COLUMN "opened_on" date;--> statement-breakpoint
ALTER TABLE "contact_accounts" ADD CONSTRAINT "contact_accounts_contact_id_contacts_id_fk" FOREIGN KEY ("contact_id") REFERENCES "public"."contacts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "contact_accounts" ADD CONSTRAINT "contact_accounts_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;