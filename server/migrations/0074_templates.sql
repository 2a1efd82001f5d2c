CREATE TABLE "template_uses" (
	"template_id" bigint NOT NULL,
	"email_id" bigint NOT NULL,
	CONSTRAINT "template_uses_once" PRIMARY KEY("template_id","email_id")
);
--> statement-breakpoint
CREATE TABLE "templates" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "templates_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"owner_id" bigint NOT NULL,
	"scope" text DEFAULT 'own' NOT NULL,
	"team_id" bigint,
	"folder" text DEFAULT '' NOT NULL,
	"name" text NOT NULL,
	"language" text DEFAULT '' NOT NULL,
	"shortcut" text DEFAULT '' NOT NULL,
	"subject" text DEFAULT '' NOT NULL,
	"html" text DEFAULT '' NOT NULL,
	"words" text DEFAULT '' NOT NULL,
	"state" text DEFAULT 'published' NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "templates_kind_known" CHECK ("templates"."kind" in ('template', 'block', 'article')),
	CONSTRAINT "templates_scope_known" CHECK ("templates"."scope" in ('own', 'team', 'all')),
	CONSTRAINT "templates_state_known" CHECK ("templates"."state" in ('draft', 'published', 'outdated'))
);
--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "template_id" bigint;--> statement-breakpoint
ALTER TABLE "template_uses" ADD CONSTRAINT "template_uses_template_id_templates_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."templates"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "template_uses" ADD CONSTRAINT "template_uses_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "templates" ADD CONSTRAINT "templates_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "templates" ADD CONSTRAINT "templates_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "template_uses_by_email" ON "template_uses" USING btree ("email_id");--> statement-breakpoint
CREATE INDEX "templates_by_owner" ON "templates" USING btree ("owner_id");--> statement-breakpoint
ALTER TABLE "outgoing" ADD CONSTRAINT "outgoing_template_id_templates_id_fk" FOREIGN KEY ("template_id") REFERENCES "public"."templates"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON templates, template_uses TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE templates ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE template_uses ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON templates TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON template_uses TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- One's own; what is published for everyone or for one's teams; administrators keep all that is shared.
CREATE POLICY own_or_published ON templates FOR SELECT TO fulvet_app USING (
  owner_id = (SELECT fulvet_acting_user())
  OR (removed_at IS NULL AND state = 'published' AND (SELECT fulvet_acting_user()) IS NOT NULL
    AND (scope = 'all' OR (scope = 'team' AND team_id IN (SELECT t.team_id FROM team_members t WHERE t.user_id = (SELECT fulvet_acting_user())))))
  OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
CREATE POLICY own_or_kept ON templates TO fulvet_app
  USING (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))
  WITH CHECK (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
CREATE POLICY of_template ON template_uses FOR SELECT TO fulvet_app USING (template_id IN (SELECT t.id FROM templates t));
