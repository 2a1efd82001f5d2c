CREATE TABLE "access_tokens" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "access_tokens_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"name" text NOT NULL,
	"token_hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_used_at" timestamp with time zone,
	"revoked_at" timestamp with time zone,
	CONSTRAINT "access_tokens_hash_once" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "account_domains" (
	"account_id" bigint NOT NULL,
	"domain" text NOT NULL,
	CONSTRAINT "account_domains_account_id_domain_pk" PRIMARY KEY("account_id","domain")
);
--> statement-breakpoint
CREATE TABLE "accounts" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "accounts_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"type" text DEFAULT '' NOT NULL,
	"parent_id" bigint,
	"owner_id" bigint,
	"origin_email_id" bigint,
	"origin_rule" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "attachments" (
	"email_id" bigint NOT NULL,
	"position" integer NOT NULL,
	"name" text NOT NULL,
	"type" text NOT NULL,
	"size" integer NOT NULL,
	"content_id" text,
	"inline" boolean NOT NULL,
	CONSTRAINT "attachments_email_id_position_pk" PRIMARY KEY("email_id","position")
);
--> statement-breakpoint
CREATE TABLE "blobs" (
	"sha256" text PRIMARY KEY NOT NULL,
	"pack" text NOT NULL,
	"position" bigint NOT NULL,
	"length" integer NOT NULL,
	"size" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "contacts" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "contacts_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"name_confidence" numeric DEFAULT 1 NOT NULL,
	"account_id" bigint,
	"title" text DEFAULT '' NOT NULL,
	"phone" text DEFAULT '' NOT NULL,
	"owner_id" bigint,
	"origin_email_id" bigint,
	"origin_rule" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "deal_people" (
	"deal_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"person_id" bigint NOT NULL,
	CONSTRAINT "deal_people_deal_id_kind_person_id_pk" PRIMARY KEY("deal_id","kind","person_id")
);
--> statement-breakpoint
CREATE TABLE "deals" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "deals_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"code" text,
	"account_id" bigint,
	"owner_id" bigint,
	"stage" text DEFAULT '' NOT NULL,
	"open" boolean DEFAULT true NOT NULL,
	"amount" numeric,
	"currency" text DEFAULT '' NOT NULL,
	"closed_on" date,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "decide_runs" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "decide_runs_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer DEFAULT 0 NOT NULL,
	"changed" integer DEFAULT 0 NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"finished_at" timestamp with time zone,
	CONSTRAINT "decide_runs_state_known" CHECK ("decide_runs"."state" in ('queued', 'running', 'done', 'cancelled', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "dockets" (
	"email_id" bigint PRIMARY KEY NOT NULL,
	"docket" jsonb NOT NULL,
	"questions" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "email_contents" (
	"email_id" bigint PRIMARY KEY NOT NULL,
	"subject" text NOT NULL,
	"base_subject" text NOT NULL,
	"subject_key" text NOT NULL,
	"preview" text NOT NULL,
	"body" text NOT NULL,
	"has_html" boolean NOT NULL,
	"attachment_count" integer NOT NULL,
	"search" "tsvector" NOT NULL
);
--> statement-breakpoint
CREATE TABLE "emails" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "emails_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"identity" text NOT NULL,
	"message_id" text,
	"references" text[] NOT NULL,
	"family_id" bigint NOT NULL,
	"conversation_id" bigint NOT NULL,
	"subject_parent_id" bigint,
	"is_forward" boolean NOT NULL,
	"sent_at" timestamp with time zone NOT NULL,
	"date_source" text NOT NULL,
	"arrived_at" timestamp with time zone NOT NULL,
	"size" integer NOT NULL,
	"blob" text,
	"mail_class" text NOT NULL,
	"class_header" text,
	"class_value" text,
	"problems" jsonb NOT NULL,
	"owner_ids" bigint[] NOT NULL,
	"direction" text,
	"outcome" text,
	"visibility" text DEFAULT 'owner' NOT NULL,
	"external_domains" text[] DEFAULT '{}' NOT NULL,
	"stops" jsonb,
	"rulebook_version" integer,
	"decided_at" timestamp with time zone,
	CONSTRAINT "emails_identity_once" UNIQUE("identity"),
	CONSTRAINT "emails_outcome_known" CHECK ("emails"."outcome" in ('filed', 'waiting', 'loose', 'kept out', 'sealed')),
	CONSTRAINT "emails_visibility_known" CHECK ("emails"."visibility" in ('owner', 'everyone')),
	CONSTRAINT "emails_direction_known" CHECK ("emails"."direction" in ('sent', 'received', 'internal'))
);
--> statement-breakpoint
CREATE TABLE "filings" (
	"email_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"rule" text NOT NULL,
	"created" boolean DEFAULT false NOT NULL,
	CONSTRAINT "filings_email_id_kind_record_id_pk" PRIMARY KEY("email_id","kind","record_id"),
	CONSTRAINT "filings_kind_known" CHECK ("filings"."kind" in ('contact', 'lead', 'account', 'deal'))
);
--> statement-breakpoint
CREATE TABLE "import_items" (
	"import_id" bigint NOT NULL,
	"position" integer NOT NULL,
	"file" text NOT NULL,
	"result" text NOT NULL,
	"email_id" bigint,
	"problems" jsonb NOT NULL,
	CONSTRAINT "import_items_import_id_position_pk" PRIMARY KEY("import_id","position"),
	CONSTRAINT "import_items_result_known" CHECK ("import_items"."result" in ('new', 'other sighting', 'known', 'unreadable'))
);
--> statement-breakpoint
CREATE TABLE "imports" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "imports_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"mailbox_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	"file_names" text[] DEFAULT '{}' NOT NULL,
	"total_bytes" bigint DEFAULT 0 NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"phase" text DEFAULT 'reading' NOT NULL,
	"read_bytes" bigint DEFAULT 0 NOT NULL,
	"counts" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	CONSTRAINT "imports_state_known" CHECK ("imports"."state" in ('open', 'queued', 'running', 'done', 'cancelled', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "leads" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "leads_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"name_confidence" numeric DEFAULT 1 NOT NULL,
	"company" text DEFAULT '' NOT NULL,
	"status" text DEFAULT '' NOT NULL,
	"owner_id" bigint,
	"origin_email_id" bigint,
	"origin_rule" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "mailboxes" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "mailboxes_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"address" text NOT NULL,
	"owner_id" bigint NOT NULL,
	"kind" text DEFAULT 'imported' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "mailboxes_address_once" UNIQUE("address"),
	CONSTRAINT "mailboxes_kind_known" CHECK ("mailboxes"."kind" in ('imported'))
);
--> statement-breakpoint
CREATE TABLE "participants" (
	"email_id" bigint NOT NULL,
	"role" text NOT NULL,
	"position" integer NOT NULL,
	"address" text NOT NULL,
	"domain" text NOT NULL,
	"name" text NOT NULL,
	CONSTRAINT "participants_email_id_role_address_pk" PRIMARY KEY("email_id","role","address")
);
--> statement-breakpoint
CREATE TABLE "person_addresses" (
	"kind" text NOT NULL,
	"person_id" bigint NOT NULL,
	"address" text NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "person_addresses_kind_address_pk" PRIMARY KEY("kind","address"),
	CONSTRAINT "person_addresses_kind_known" CHECK ("person_addresses"."kind" in ('contact', 'lead'))
);
--> statement-breakpoint
CREATE TABLE "rulebooks" (
	"version" integer PRIMARY KEY NOT NULL,
	"document" jsonb NOT NULL,
	"summary" text NOT NULL,
	"created_by" bigint,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sightings" (
	"email_id" bigint NOT NULL,
	"mailbox_id" bigint NOT NULL,
	"folder" text NOT NULL,
	"import_id" bigint NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "sightings_email_id_mailbox_id_folder_pk" PRIMARY KEY("email_id","mailbox_id","folder")
);
--> statement-breakpoint
CREATE TABLE "thread_ids" (
	"message_id" text PRIMARY KEY NOT NULL,
	"family_id" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "undo_steps" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "undo_steps_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"summary" text NOT NULL,
	"entry_id" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "users" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "users_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"email" text NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"password_hash" text,
	"active" boolean DEFAULT true NOT NULL,
	"last_visit_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "users_role_known" CHECK ("users"."role" in ('admin', 'lead', 'rep', 'viewer'))
);
--> statement-breakpoint
CREATE TABLE "workspace" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"name" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "workspace_is_one" CHECK ("workspace"."id" = 1)
);
--> statement-breakpoint
ALTER TABLE "access_tokens" ADD CONSTRAINT "access_tokens_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "account_domains" ADD CONSTRAINT "account_domains_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "accounts" ADD CONSTRAINT "accounts_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "accounts" ADD CONSTRAINT "accounts_parent_id_accounts_id_fk" FOREIGN KEY ("parent_id") REFERENCES "public"."accounts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "attachments" ADD CONSTRAINT "attachments_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "contacts" ADD CONSTRAINT "contacts_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "contacts" ADD CONSTRAINT "contacts_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deal_people" ADD CONSTRAINT "deal_people_deal_id_deals_id_fk" FOREIGN KEY ("deal_id") REFERENCES "public"."deals"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deals" ADD CONSTRAINT "deals_account_id_accounts_id_fk" FOREIGN KEY ("account_id") REFERENCES "public"."accounts"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deals" ADD CONSTRAINT "deals_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD CONSTRAINT "decide_runs_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dockets" ADD CONSTRAINT "dockets_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "email_contents" ADD CONSTRAINT "email_contents_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "emails" ADD CONSTRAINT "emails_blob_blobs_sha256_fk" FOREIGN KEY ("blob") REFERENCES "public"."blobs"("sha256") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "filings" ADD CONSTRAINT "filings_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "import_items" ADD CONSTRAINT "import_items_import_id_imports_id_fk" FOREIGN KEY ("import_id") REFERENCES "public"."imports"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "imports" ADD CONSTRAINT "imports_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "imports" ADD CONSTRAINT "imports_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "leads" ADD CONSTRAINT "leads_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "participants" ADD CONSTRAINT "participants_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rulebooks" ADD CONSTRAINT "rulebooks_created_by_users_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sightings" ADD CONSTRAINT "sightings_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sightings" ADD CONSTRAINT "sightings_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "undo_steps" ADD CONSTRAINT "undo_steps_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "account_domains_by_domain" ON "account_domains" USING btree ("domain");--> statement-breakpoint
CREATE UNIQUE INDEX "accounts_name_once" ON "accounts" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "contacts_by_account" ON "contacts" USING btree ("account_id");--> statement-breakpoint
CREATE INDEX "deal_people_by_person" ON "deal_people" USING btree ("kind","person_id");--> statement-breakpoint
CREATE UNIQUE INDEX "deals_code_once" ON "deals" USING btree (upper("code"));--> statement-breakpoint
CREATE INDEX "deals_by_account" ON "deals" USING btree ("account_id");--> statement-breakpoint
CREATE INDEX "email_contents_by_text" ON "email_contents" USING gin ("search");--> statement-breakpoint
CREATE INDEX "email_contents_by_subject" ON "email_contents" USING btree ("subject_key") WHERE "email_contents"."subject_key" <> '';--> statement-breakpoint
CREATE INDEX "emails_by_time" ON "emails" USING btree ("sent_at" DESC NULLS LAST,"id" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "emails_by_conversation" ON "emails" USING btree ("conversation_id");--> statement-breakpoint
CREATE INDEX "emails_by_family" ON "emails" USING btree ("family_id");--> statement-breakpoint
CREATE INDEX "emails_by_external_domain" ON "emails" USING gin ("external_domains");--> statement-breakpoint
CREATE INDEX "emails_undecided" ON "emails" USING btree ("id") WHERE "emails"."decided_at" is null;--> statement-breakpoint
CREATE INDEX "filings_by_record" ON "filings" USING btree ("kind","record_id","email_id");--> statement-breakpoint
CREATE INDEX "imports_by_time" ON "imports" USING btree ("created_at" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "participants_by_address" ON "participants" USING btree ("address","email_id");--> statement-breakpoint
CREATE INDEX "person_addresses_by_person" ON "person_addresses" USING btree ("kind","person_id");--> statement-breakpoint
CREATE INDEX "sightings_by_mailbox" ON "sightings" USING btree ("mailbox_id","email_id");--> statement-breakpoint
CREATE INDEX "thread_ids_by_family" ON "thread_ids" USING btree ("family_id");--> statement-breakpoint
CREATE UNIQUE INDEX "users_email_once" ON "users" USING btree (lower("email"));