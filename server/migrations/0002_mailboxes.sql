CREATE TABLE "folder_messages" (
	"folder_id" bigint NOT NULL,
	"uid_validity" bigint NOT NULL,
	"uid" bigint NOT NULL,
	"email_id" bigint,
	"note" text DEFAULT '' NOT NULL,
	"tries" integer DEFAULT 1 NOT NULL,
	"marked" boolean DEFAULT false NOT NULL,
	"gone_at" timestamp with time zone,
	CONSTRAINT "folder_messages_folder_id_uid_validity_uid_pk" PRIMARY KEY("folder_id","uid_validity","uid")
);
--> statement-breakpoint
CREATE TABLE "gestures" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "gestures_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"email_id" bigint NOT NULL,
	"via" text NOT NULL,
	"target" text,
	"record_id" bigint,
	"detail" text NOT NULL,
	"user_id" bigint,
	"trusted" boolean NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "gestures_via_known" CHECK ("gestures"."via" in ('address', 'folder'))
);
--> statement-breakpoint
CREATE TABLE "mailbox_checks" (
	"mailbox_id" bigint NOT NULL,
	"step" text NOT NULL,
	"state" text NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"remedy" text DEFAULT '' NOT NULL,
	"said" text DEFAULT '' NOT NULL,
	"code" text,
	"ms" integer,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "mailbox_checks_mailbox_id_step_pk" PRIMARY KEY("mailbox_id","step"),
	CONSTRAINT "mailbox_checks_state_known" CHECK ("mailbox_checks"."state" in ('waiting', 'running', 'passed', 'failed'))
);
--> statement-breakpoint
CREATE TABLE "mailbox_events" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "mailbox_events_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"mailbox_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"level" text NOT NULL,
	"message" text NOT NULL,
	"said" text DEFAULT '' NOT NULL,
	CONSTRAINT "mailbox_events_level_known" CHECK ("mailbox_events"."level" in ('note', 'problem', 'mended'))
);
--> statement-breakpoint
CREATE TABLE "mailbox_folders" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "mailbox_folders_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"mailbox_id" bigint NOT NULL,
	"path" text NOT NULL,
	"role" text NOT NULL,
	"followed" boolean DEFAULT false NOT NULL,
	"uid_validity" bigint,
	"pending" integer DEFAULT 0 NOT NULL,
	"total" integer DEFAULT 0 NOT NULL,
	"file_as" text,
	"file_record_id" bigint,
	"present" boolean DEFAULT true NOT NULL,
	CONSTRAINT "mailbox_folders_file_as_known" CHECK ("mailbox_folders"."file_as" in ('rules', 'account', 'lead', 'deal', 'contact'))
);
--> statement-breakpoint
CREATE TABLE "mailbox_secrets" (
	"mailbox_id" bigint PRIMARY KEY NOT NULL,
	"sealed" text NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "mailbox_users" (
	"mailbox_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	CONSTRAINT "mailbox_users_mailbox_id_user_id_pk" PRIMARY KEY("mailbox_id","user_id")
);
--> statement-breakpoint
CREATE TABLE "sign_in_states" (
	"state_hash" text PRIMARY KEY NOT NULL,
	"mailbox_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	"verifier" text NOT NULL,
	"return_url" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "mailboxes" DROP CONSTRAINT "mailboxes_kind_known";--> statement-breakpoint
ALTER TABLE "sightings" ALTER COLUMN "import_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "accounts" ADD COLUMN "filing_code" text DEFAULT substr(replace(gen_random_uuid()::text, '-', ''), 1, 12) NOT NULL;--> statement-breakpoint
ALTER TABLE "deals" ADD COLUMN "filing_code" text DEFAULT substr(replace(gen_random_uuid()::text, '-', ''), 1, 12) NOT NULL;--> statement-breakpoint
ALTER TABLE "leads" ADD COLUMN "filing_code" text DEFAULT substr(replace(gen_random_uuid()::text, '-', ''), 1, 12) NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "state" text DEFAULT 'imported' NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "aliases" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "connection" jsonb;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "direction" text DEFAULT 'both' NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "read_since" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "share" text DEFAULT 'rules' NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "mark_filed" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "problem" jsonb;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "fetch_rate" numeric;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "last_contact_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "last_mail_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "delay_ms" integer;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "backlog" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "revision" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "lease_holder" text;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "lease_until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "lease_job" text;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "started_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "folder_messages" ADD CONSTRAINT "folder_messages_folder_id_mailbox_folders_id_fk" FOREIGN KEY ("folder_id") REFERENCES "public"."mailbox_folders"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "folder_messages" ADD CONSTRAINT "folder_messages_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gestures" ADD CONSTRAINT "gestures_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_checks" ADD CONSTRAINT "mailbox_checks_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_events" ADD CONSTRAINT "mailbox_events_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_folders" ADD CONSTRAINT "mailbox_folders_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_secrets" ADD CONSTRAINT "mailbox_secrets_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_users" ADD CONSTRAINT "mailbox_users_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailbox_users" ADD CONSTRAINT "mailbox_users_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sign_in_states" ADD CONSTRAINT "sign_in_states_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "folder_messages_by_email" ON "folder_messages" USING btree ("email_id");--> statement-breakpoint
CREATE UNIQUE INDEX "gestures_once" ON "gestures" USING btree ("email_id","via","detail");--> statement-breakpoint
CREATE INDEX "mailbox_events_by_time" ON "mailbox_events" USING btree ("mailbox_id","id" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "mailbox_folders_path_once" ON "mailbox_folders" USING btree ("mailbox_id","path");--> statement-breakpoint
CREATE UNIQUE INDEX "accounts_filing_code_once" ON "accounts" USING btree ("filing_code");--> statement-breakpoint
CREATE UNIQUE INDEX "deals_filing_code_once" ON "deals" USING btree ("filing_code");--> statement-breakpoint
CREATE UNIQUE INDEX "leads_filing_code_once" ON "leads" USING btree ("filing_code");--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_state_known" CHECK ("mailboxes"."state" in ('imported', 'connecting', 'running', 'paused', 'stopped', 'closed'));--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_direction_known" CHECK ("mailboxes"."direction" in ('both', 'sent', 'received'));--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_share_known" CHECK ("mailboxes"."share" in ('owner', 'rules'));--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_kind_known" CHECK ("mailboxes"."kind" in ('imported', 'person', 'shared', 'filing'));