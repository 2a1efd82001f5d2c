CREATE TABLE "deal_stages" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "deal_stages_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"name" text NOT NULL,
	"position" integer NOT NULL,
	"open" boolean DEFAULT true NOT NULL
);
--> statement-breakpoint
CREATE TABLE "duplicate_refusals" (
	"kind" text NOT NULL,
	"one_id" bigint NOT NULL,
	"other_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "duplicate_refusals_kind_one_id_other_id_pk" PRIMARY KEY("kind","one_id","other_id")
);
--> statement-breakpoint
CREATE TABLE "merges" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "merges_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"kept_id" bigint NOT NULL,
	"gone_id" bigint NOT NULL,
	"gone_name" text NOT NULL,
	"user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"stood" jsonb NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "own_fields" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "own_fields_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"record_kind" text NOT NULL,
	"key" text NOT NULL,
	"label" text NOT NULL,
	"type" text NOT NULL,
	"choices" text[] DEFAULT '{}' NOT NULL,
	"position" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "own_fields_kind_known" CHECK ("own_fields"."record_kind" in ('contact', 'lead', 'account', 'deal')),
	CONSTRAINT "own_fields_type_known" CHECK ("own_fields"."type" in ('text', 'number', 'date', 'choice', 'yesNo'))
);
--> statement-breakpoint
CREATE TABLE "record_changes" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "record_changes_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL,
	"user_id" bigint,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"field" text NOT NULL,
	"before" text DEFAULT '' NOT NULL,
	"after" text DEFAULT '' NOT NULL
);
--> statement-breakpoint
CREATE TABLE "record_views" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "record_views_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"record_kind" text NOT NULL,
	"name" text NOT NULL,
	"user_id" bigint NOT NULL,
	"shared" boolean DEFAULT false NOT NULL,
	"query" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "desk_passes" (
	"email_id" bigint NOT NULL,
	"to_user_id" bigint NOT NULL,
	"by_user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "desk_passes_email_id_pk" PRIMARY KEY("email_id")
);
--> statement-breakpoint
CREATE TABLE "pins" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "pins_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"repair_id" bigint NOT NULL,
	"user_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	"does" text NOT NULL,
	"kind" text,
	"record_id" bigint,
	"reach" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"released_at" timestamp with time zone,
	CONSTRAINT "pins_deed_known" CHECK ("pins"."does" in ('file', 'takeOff', 'settle', 'seal')),
	CONSTRAINT "pins_reach_known" CHECK ("pins"."reach" in ('email', 'onward', 'soFar', 'conversation'))
);
--> statement-breakpoint
CREATE TABLE "repairs" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "repairs_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"summary" text NOT NULL,
	"emails" integer NOT NULL,
	"created" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"sealed" boolean DEFAULT false NOT NULL,
	"undone_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "accounts" ADD COLUMN "own" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "contacts" ADD COLUMN "phones" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "contacts" ADD COLUMN "own" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "deal_people" ADD COLUMN "role" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "deals" ADD COLUMN "own" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "leads" ADD COLUMN "title" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "leads" ADD COLUMN "phones" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "leads" ADD COLUMN "own" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "duplicate_refusals" ADD CONSTRAINT "duplicate_refusals_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "merges" ADD CONSTRAINT "merges_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_changes" ADD CONSTRAINT "record_changes_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "record_views" ADD CONSTRAINT "record_views_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desk_passes" ADD CONSTRAINT "desk_passes_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desk_passes" ADD CONSTRAINT "desk_passes_to_user_id_users_id_fk" FOREIGN KEY ("to_user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desk_passes" ADD CONSTRAINT "desk_passes_by_user_id_users_id_fk" FOREIGN KEY ("by_user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_repair_id_repairs_id_fk" FOREIGN KEY ("repair_id") REFERENCES "public"."repairs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "repairs" ADD CONSTRAINT "repairs_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "deal_stages_name_once" ON "deal_stages" USING btree (lower("name"));--> statement-breakpoint
CREATE INDEX "merges_by_kept" ON "merges" USING btree ("kind","kept_id");--> statement-breakpoint
CREATE UNIQUE INDEX "own_fields_key_once" ON "own_fields" USING btree ("record_kind","key");--> statement-breakpoint
CREATE INDEX "record_changes_by_record" ON "record_changes" USING btree ("kind","record_id","id" DESC NULLS LAST);--> statement-breakpoint
CREATE UNIQUE INDEX "record_views_name_once" ON "record_views" USING btree ("user_id","record_kind",lower("name"));--> statement-breakpoint
CREATE INDEX "desk_passes_by_user" ON "desk_passes" USING btree ("to_user_id");--> statement-breakpoint
CREATE INDEX "pins_standing" ON "pins" USING btree ("email_id") WHERE "pins"."released_at" is null;--> statement-breakpoint
CREATE INDEX "pins_by_record" ON "pins" USING btree ("kind","record_id");--> statement-breakpoint
CREATE INDEX "repairs_by_user" ON "repairs" USING btree ("user_id","id" DESC NULLS LAST);