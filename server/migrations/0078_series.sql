CREATE TABLE "series" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "series_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"owner_id" bigint NOT NULL,
	"scope" text DEFAULT 'own' NOT NULL,
	"team_id" bigint,
	"language" text DEFAULT '' NOT NULL,
	"name" text NOT NULL,
	"steps" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "series_scope_known" CHECK ("series"."scope" in ('own', 'team', 'all'))
);
--> statement-breakpoint
CREATE TABLE "series_runs" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "series_runs_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"series_id" bigint NOT NULL,
	"series_name" text NOT NULL,
	"writer_id" bigint NOT NULL,
	"mailbox_id" bigint NOT NULL,
	"from_address" text,
	"address" text NOT NULL,
	"name" text DEFAULT '' NOT NULL,
	"deal_id" bigint,
	"zone" text NOT NULL,
	"asks" boolean DEFAULT true NOT NULL,
	"steps" jsonb NOT NULL,
	"at_step" integer DEFAULT 0 NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"due_at" timestamp with time zone NOT NULL,
	"why" text,
	"problem" text DEFAULT '' NOT NULL,
	"stopped_by_email" bigint,
	"look_at" timestamp with time zone NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL,
	"after_email" bigint DEFAULT 0 NOT NULL,
	"ended_at" timestamp with time zone,
	CONSTRAINT "series_runs_state_known" CHECK ("series_runs"."state" in ('waiting', 'preparing', 'to look at', 'to do', 'sending', 'ended', 'stopped'))
);
--> statement-breakpoint
CREATE TABLE "series_steps" (
	"run_id" bigint NOT NULL,
	"step" integer NOT NULL,
	"outgoing_id" bigint,
	"message_id" text,
	"subject" text DEFAULT '' NOT NULL,
	"begun_at" timestamp with time zone NOT NULL,
	"done_at" timestamp with time zone,
	CONSTRAINT "series_steps_once" PRIMARY KEY("run_id","step")
);
--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "automatic" jsonb DEFAULT '{"holidays":[],"perDay":50,"pauseSeconds":15,"isHeld":false}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_owner_id_users_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_team_id_teams_id_fk" FOREIGN KEY ("team_id") REFERENCES "public"."teams"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_runs" ADD CONSTRAINT "series_runs_series_id_series_id_fk" FOREIGN KEY ("series_id") REFERENCES "public"."series"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_runs" ADD CONSTRAINT "series_runs_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_runs" ADD CONSTRAINT "series_runs_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_runs" ADD CONSTRAINT "series_runs_stopped_by_email_emails_id_fk" FOREIGN KEY ("stopped_by_email") REFERENCES "public"."emails"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_steps" ADD CONSTRAINT "series_steps_run_id_series_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."series_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "series_steps" ADD CONSTRAINT "series_steps_outgoing_id_outgoing_id_fk" FOREIGN KEY ("outgoing_id") REFERENCES "public"."outgoing"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "series_by_owner" ON "series" USING btree ("owner_id");--> statement-breakpoint
CREATE INDEX "series_runs_by_writer" ON "series_runs" USING btree ("writer_id","state");--> statement-breakpoint
CREATE INDEX "series_runs_by_series" ON "series_runs" USING btree ("series_id");--> statement-breakpoint
CREATE INDEX "series_runs_open" ON "series_runs" USING btree ("look_at") WHERE "series_runs"."state" not in ('ended', 'stopped');--> statement-breakpoint
CREATE UNIQUE INDEX "series_runs_once_for_person" ON "series_runs" USING btree ("address") WHERE "series_runs"."state" not in ('ended', 'stopped');--> statement-breakpoint
CREATE INDEX "series_steps_by_outgoing" ON "series_steps" USING btree ("outgoing_id");--> statement-breakpoint
CREATE INDEX "series_steps_by_begun" ON "series_steps" USING btree ("begun_at");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON series, series_runs, series_steps TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE series ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE series_runs ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE series_steps ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON series TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON series_runs TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON series_steps TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- One's own; what is shared with everyone or with one's teams; administrators keep all that is shared.
CREATE POLICY own_or_shared ON series FOR SELECT TO fulvet_app USING (
  owner_id = (SELECT fulvet_acting_user())
  OR (removed_at IS NULL AND (SELECT fulvet_acting_user()) IS NOT NULL
    AND (scope = 'all' OR (scope = 'team' AND team_id IN (SELECT t.team_id FROM team_members t WHERE t.user_id = (SELECT fulvet_acting_user())))))
  OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
CREATE POLICY own_or_kept ON series TO fulvet_app
  USING (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'))
  WITH CHECK (owner_id = (SELECT fulvet_acting_user())
    OR (scope <> 'own' AND (SELECT u.role FROM users u WHERE u.id = (SELECT fulvet_acting_user())) = 'admin'));--> statement-breakpoint
-- To whom a member writes is the member's own mail.
CREATE POLICY own_writing ON series_runs TO fulvet_app
  USING (writer_id = (SELECT fulvet_acting_user())) WITH CHECK (writer_id = (SELECT fulvet_acting_user()));--> statement-breakpoint
CREATE POLICY own_writing ON series_steps TO fulvet_app
  USING (EXISTS (SELECT FROM series_runs r WHERE r.id = run_id)) WITH CHECK (EXISTS (SELECT FROM series_runs r WHERE r.id = run_id));--> statement-breakpoint
-- Whether someone gets a series already, whoever sends it; that alone.
CREATE FUNCTION fulvet_has_series(wanted text[]) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT EXISTS (SELECT FROM series_runs r WHERE r.address = ANY(wanted) AND r.state NOT IN ('ended', 'stopped'))
$$;--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_has_series(text[]) FROM PUBLIC;--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_has_series(text[]) TO fulvet_app, fulvet_worker;
