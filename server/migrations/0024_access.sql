CREATE TABLE "invitations" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "invitations_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"email" text NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"token_hash" text NOT NULL,
	"invited_by" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"accepted_at" timestamp with time zone,
	"withdrawn_at" timestamp with time zone,
	CONSTRAINT "invitations_token_once" UNIQUE("token_hash")
);
--> statement-breakpoint
CREATE TABLE "user_secrets" (
	"user_id" bigint PRIMARY KEY NOT NULL,
	"sealed_key" text NOT NULL,
	"recovery_hashes" text[] DEFAULT '{}' NOT NULL,
	"last_step" integer DEFAULT 0 NOT NULL
);
--> statement-breakpoint
CREATE TABLE "workspace_secrets" (
	"name" text PRIMARY KEY NOT NULL,
	"sealed" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "access_requests" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "access_requests_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"asked_by" bigint NOT NULL,
	"owner_id" bigint NOT NULL,
	"scope" text NOT NULL,
	"email_id" bigint,
	"record_kind" text,
	"record_id" bigint,
	"note" text DEFAULT '' NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"answered_at" timestamp with time zone,
	"grant_id" bigint,
	CONSTRAINT "access_requests_state_known" CHECK ("access_requests"."state" in ('open', 'shared', 'declined', 'withdrawn')),
	CONSTRAINT "access_requests_scope_known" CHECK ("access_requests"."scope" in ('email', 'conversation', 'record'))
);
--> statement-breakpoint
CREATE TABLE "audit_log" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "audit_log_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"chain" text NOT NULL,
	"place" bigint NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"actor_id" bigint,
	"actor" text NOT NULL,
	"kind" text NOT NULL,
	"about" text NOT NULL,
	"email_id" bigint,
	"subject_id" bigint,
	"previous" text NOT NULL,
	"hash" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "deal_team" (
	"deal_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "deal_team_deal_id_user_id_pk" PRIMARY KEY("deal_id","user_id")
);
--> statement-breakpoint
CREATE TABLE "emergencies" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "emergencies_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"owner_id" bigint NOT NULL,
	"asked_by" bigint NOT NULL,
	"reason" text NOT NULL,
	"hours" integer NOT NULL,
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	"confirmed_by" bigint,
	"confirmed_at" timestamp with time zone,
	"until" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"ended_by" bigint,
	CONSTRAINT "emergencies_by_two" CHECK ("emergencies"."confirmed_by" is null or "emergencies"."confirmed_by" <> "emergencies"."asked_by"),
	CONSTRAINT "emergencies_hours" CHECK ("emergencies"."hours" between 1 and 72),
	CONSTRAINT "emergencies_confirmed" CHECK (("emergencies"."confirmed_by" is null) = ("emergencies"."until" is null))
);
--> statement-breakpoint
CREATE TABLE "erasures" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "erasures_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"by_user_id" bigint NOT NULL,
	"reference" text DEFAULT '' NOT NULL,
	"counts" jsonb NOT NULL,
	"salt" text NOT NULL,
	"certificate" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "forgotten" (
	"hash" text PRIMARY KEY NOT NULL,
	"erasure_id" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "grants" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "grants_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"by_user_id" bigint NOT NULL,
	"to_user_id" bigint NOT NULL,
	"scope" text NOT NULL,
	"email_id" bigint,
	"record_kind" text,
	"record_id" bigint,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"withdrawn_at" timestamp with time zone,
	CONSTRAINT "grants_scope_known" CHECK ("grants"."scope" in ('email', 'conversation', 'record')),
	CONSTRAINT "grants_about" CHECK (("grants"."scope" = 'record') = ("grants"."record_id" is not null and "grants"."record_kind" in ('contact', 'lead', 'account', 'deal')) and ("grants"."scope" <> 'record') = ("grants"."email_id" is not null))
);
--> statement-breakpoint
CREATE TABLE "own_words" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "own_words_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"does" text NOT NULL,
	"scope" text NOT NULL,
	"email_id" bigint,
	"value" text,
	"level" text,
	"teams" text[] DEFAULT '{}' NOT NULL,
	"existence_only" boolean DEFAULT false NOT NULL,
	"until" timestamp with time zone,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"withdrawn_at" timestamp with time zone,
	CONSTRAINT "own_words_deed_known" CHECK ("own_words"."does" in ('seal', 'share')),
	CONSTRAINT "own_words_scope_known" CHECK ("own_words"."scope" in ('email', 'conversation', 'person', 'domain')),
	CONSTRAINT "own_words_level_known" CHECK ("own_words"."level" in ('owner', 'record', 'teams', 'everyone') and ("own_words"."does" = 'share') = ("own_words"."level" is not null)),
	CONSTRAINT "own_words_about" CHECK (("own_words"."scope" in ('email', 'conversation')) = ("own_words"."email_id" is not null) and ("own_words"."scope" in ('person', 'domain')) = ("own_words"."value" is not null))
);
--> statement-breakpoint
CREATE TABLE "retention" (
	"kind" text PRIMARY KEY NOT NULL,
	"days" integer,
	"changed_by" bigint,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_run_at" timestamp with time zone,
	CONSTRAINT "retention_kind_known" CHECK ("retention"."kind" in ('keptOut', 'loose', 'closedDeals')),
	CONSTRAINT "retention_days" CHECK ("retention"."days" between 1 and 36500)
);
--> statement-breakpoint
CREATE TABLE "sealed_records" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "sealed_records_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"email_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"stood" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "emails" ADD COLUMN "granted_ids" bigint[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "access_tokens" ADD COLUMN "scopes" text[] DEFAULT '{read,write,admin}' NOT NULL;--> statement-breakpoint
ALTER TABLE "access_tokens" ADD COLUMN "expires_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "deactivated_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "provider_subject" text;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "second_factor" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "record_reach" text DEFAULT 'all' NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "widest_share" text DEFAULT 'everyone' NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "second_factor_needed" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "identity_provider" jsonb;--> statement-breakpoint
ALTER TABLE "invitations" ADD CONSTRAINT "invitations_invited_by_users_id_fk" FOREIGN KEY ("invited_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "user_secrets" ADD CONSTRAINT "user_secrets_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_requests" ADD CONSTRAINT "access_requests_asked_by_users_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_requests" ADD CONSTRAINT "access_requests_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_requests" ADD CONSTRAINT "access_requests_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_requests" ADD CONSTRAINT "access_requests_grant_id_grants_id_fk" FOREIGN KEY ("grant_id") REFERENCES "public"."grants"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deal_team" ADD CONSTRAINT "deal_team_deal_id_deals_id_fk" FOREIGN KEY ("deal_id") REFERENCES "public"."deals"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deal_team" ADD CONSTRAINT "deal_team_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "emergencies" ADD CONSTRAINT "emergencies_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "emergencies" ADD CONSTRAINT "emergencies_asked_by_users_id_fk" FOREIGN KEY ("asked_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "emergencies" ADD CONSTRAINT "emergencies_confirmed_by_users_id_fk" FOREIGN KEY ("confirmed_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "emergencies" ADD CONSTRAINT "emergencies_ended_by_users_id_fk" FOREIGN KEY ("ended_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "erasures" ADD CONSTRAINT "erasures_by_user_id_users_id_fk" FOREIGN KEY ("by_user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "grants" ADD CONSTRAINT "grants_by_user_id_users_id_fk" FOREIGN KEY ("by_user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "grants" ADD CONSTRAINT "grants_to_user_id_users_id_fk" FOREIGN KEY ("to_user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "grants" ADD CONSTRAINT "grants_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_words" ADD CONSTRAINT "own_words_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_words" ADD CONSTRAINT "own_words_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "retention" ADD CONSTRAINT "retention_changed_by_users_id_fk" FOREIGN KEY ("changed_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sealed_records" ADD CONSTRAINT "sealed_records_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "access_requests_of_owner" ON "access_requests" USING btree ("owner_id") WHERE "access_requests"."state" = 'open';--> statement-breakpoint
CREATE INDEX "access_requests_by_asker" ON "access_requests" USING btree ("asked_by","id" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "audit_log_chained" ON "audit_log" USING btree ("chain","place");--> statement-breakpoint
CREATE INDEX "audit_log_by_time" ON "audit_log" USING btree ("at" DESC NULLS LAST,"id" DESC NULLS LAST);--> statement-breakpoint
CREATE INDEX "audit_log_by_subject" ON "audit_log" USING btree ("subject_id");--> statement-breakpoint
CREATE INDEX "audit_log_by_actor" ON "audit_log" USING btree ("actor_id");--> statement-breakpoint
CREATE INDEX "deal_team_by_user" ON "deal_team" USING btree ("user_id");--> statement-breakpoint
CREATE INDEX "emergencies_by_reader" ON "emergencies" USING btree ("asked_by","until");--> statement-breakpoint
CREATE INDEX "grants_standing" ON "grants" USING btree ("by_user_id") WHERE "grants"."withdrawn_at" is null;--> statement-breakpoint
CREATE INDEX "grants_by_email" ON "grants" USING btree ("email_id");--> statement-breakpoint
CREATE INDEX "grants_by_record" ON "grants" USING btree ("record_kind","record_id");--> statement-breakpoint
CREATE INDEX "own_words_standing" ON "own_words" USING btree ("user_id") WHERE "own_words"."withdrawn_at" is null;--> statement-breakpoint
CREATE INDEX "sealed_records_by_email" ON "sealed_records" USING btree ("email_id");--> statement-breakpoint
CREATE UNIQUE INDEX "sealed_records_once" ON "sealed_records" USING btree ("kind","record_id");--> statement-breakpoint
CREATE INDEX "accounts_by_origin" ON "accounts" USING btree ("origin_email_id");--> statement-breakpoint
CREATE INDEX "contacts_by_origin" ON "contacts" USING btree ("origin_email_id");--> statement-breakpoint
CREATE INDEX "leads_by_origin" ON "leads" USING btree ("origin_email_id");--> statement-breakpoint
ALTER TABLE "users" ADD CONSTRAINT "users_provider_subject_once" UNIQUE("provider_subject");--> statement-breakpoint
ALTER TABLE "workspace" ADD CONSTRAINT "workspace_record_reach_known" CHECK ("workspace"."record_reach" in ('all', 'team', 'owner'));--> statement-breakpoint
ALTER TABLE "workspace" ADD CONSTRAINT "workspace_widest_share_known" CHECK ("workspace"."widest_share" in ('owner', 'record', 'teams', 'everyone'));