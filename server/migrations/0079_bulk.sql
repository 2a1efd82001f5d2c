CREATE TABLE "bulk_sends" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "bulk_sends_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"writer_id" bigint NOT NULL,
	"name" text NOT NULL,
	"total" integer NOT NULL,
	"left_out" jsonb NOT NULL,
	"stopped_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "unsubscribe_links" (
	"token_hash" text PRIMARY KEY NOT NULL,
	"address" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "unsubscribes" (
	"address" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "workspace" ALTER COLUMN "writing_rights" SET DEFAULT '{"send":{"role":"rep","teamIds":[]},"share":{"role":"manager","teamIds":[]},"bulk":{"role":"manager","teamIds":[]}}'::jsonb;--> statement-breakpoint
ALTER TABLE "series_runs" ALTER COLUMN "series_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "unsubscribe" text;--> statement-breakpoint
ALTER TABLE "series_runs" ADD COLUMN "bulk_id" bigint;--> statement-breakpoint
ALTER TABLE "bulk_sends" ADD CONSTRAINT "bulk_sends_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "bulk_sends_by_writer" ON "bulk_sends" USING btree ("writer_id");--> statement-breakpoint
CREATE INDEX "unsubscribe_links_by_address" ON "unsubscribe_links" USING btree ("address");--> statement-breakpoint
ALTER TABLE "series_runs" ADD CONSTRAINT "series_runs_bulk_id_bulk_sends_id_fk" FOREIGN KEY ("bulk_id") REFERENCES "public"."bulk_sends"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "series_runs_by_bulk" ON "series_runs" USING btree ("bulk_id");--> statement-breakpoint
UPDATE workspace SET writing_rights = writing_rights || '{"bulk":{"role":"manager","teamIds":[]}}'::jsonb WHERE NOT writing_rights ? 'bulk';--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON bulk_sends TO fulvet_app, fulvet_worker;--> statement-breakpoint
GRANT SELECT ON unsubscribes TO fulvet_app;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON unsubscribes, unsubscribe_links TO fulvet_worker;--> statement-breakpoint
ALTER TABLE bulk_sends ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE unsubscribes ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE unsubscribe_links ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON bulk_sends TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON unsubscribes TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON unsubscribe_links TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY own_writing ON bulk_sends TO fulvet_app
  USING (writer_id = (SELECT fulvet_acting_user())) WITH CHECK (writer_id = (SELECT fulvet_acting_user()));--> statement-breakpoint
-- Who wants no such emails is known to every member: it holds for all of them.
CREATE POLICY every_member ON unsubscribes FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL);
