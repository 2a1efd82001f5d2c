CREATE TABLE "kept_entries" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "kept_entries_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"list_id" text NOT NULL,
	"kind" text NOT NULL,
	"value" text NOT NULL,
	"exactly" boolean DEFAULT false NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"added_by" bigint,
	"added_at" timestamp with time zone DEFAULT now() NOT NULL,
	"until" date,
	CONSTRAINT "kept_entries_kind_known" CHECK ("kept_entries"."kind" in ('domain', 'address'))
);
--> statement-breakpoint
CREATE TABLE "kept_lists" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"created_by" bigint,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rulebook_draft" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"document" jsonb NOT NULL,
	"base_version" integer NOT NULL,
	"revision" integer DEFAULT 1 NOT NULL,
	"edited_by" bigint,
	"edited_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "rulebook_draft_is_one" CHECK ("rulebook_draft"."id" = 1)
);
--> statement-breakpoint
CREATE TABLE "trial_dockets" (
	"trial_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"docket" jsonb NOT NULL,
	CONSTRAINT "trial_dockets_trial_id_email_id_pk" PRIMARY KEY("trial_id","email_id")
);
--> statement-breakpoint
CREATE TABLE "trial_rows" (
	"trial_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"outcome_before" text,
	"outcome_after" text NOT NULL,
	"visibility_before" text NOT NULL,
	"visibility_after" text NOT NULL,
	"stop" text,
	"won" text[] DEFAULT '{}' NOT NULL,
	"lost" text[] DEFAULT '{}' NOT NULL,
	CONSTRAINT "trial_rows_trial_id_email_id_pk" PRIMARY KEY("trial_id","email_id")
);
--> statement-breakpoint
CREATE TABLE "trials" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "trials_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"user_id" bigint NOT NULL,
	"document" jsonb NOT NULL,
	"base_version" integer NOT NULL,
	"since" timestamp with time zone,
	"mailboxes" text[] DEFAULT '{}' NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer DEFAULT 0 NOT NULL,
	"summary" jsonb,
	"message" text DEFAULT '' NOT NULL,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"finished_at" timestamp with time zone,
	CONSTRAINT "trials_state_known" CHECK ("trials"."state" in ('queued', 'running', 'done', 'cancelled', 'failed'))
);
--> statement-breakpoint
ALTER TABLE "emails" ADD COLUMN "sensitivity" text;--> statement-breakpoint
ALTER TABLE "kept_entries" ADD CONSTRAINT "kept_entries_list_id_kept_lists_id_fk" FOREIGN KEY ("list_id") REFERENCES "public"."kept_lists"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_entries" ADD CONSTRAINT "kept_entries_added_by_users_id_fk" FOREIGN KEY ("added_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "kept_lists" ADD CONSTRAINT "kept_lists_created_by_users_id_fk" FOREIGN KEY ("created_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rulebook_draft" ADD CONSTRAINT "rulebook_draft_edited_by_users_id_fk" FOREIGN KEY ("edited_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trial_dockets" ADD CONSTRAINT "trial_dockets_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trial_dockets" ADD CONSTRAINT "trial_dockets_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trial_rows" ADD CONSTRAINT "trial_rows_trial_id_trials_id_fk" FOREIGN KEY ("trial_id") REFERENCES "public"."trials"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trial_rows" ADD CONSTRAINT "trial_rows_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "kept_entries_once" ON "kept_entries" USING btree ("list_id","kind","value");--> statement-breakpoint
CREATE UNIQUE INDEX "kept_lists_name_once" ON "kept_lists" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "trial_rows_by_outcome" ON "trial_rows" USING btree ("trial_id","outcome_before","outcome_after");