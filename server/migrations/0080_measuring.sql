CREATE TABLE "measured_links" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "measured_links_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"token_hash" text NOT NULL,
	"measure_id" bigint,
	"kind" text NOT NULL,
	"url" text DEFAULT '' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "measured_links_token_once" UNIQUE("token_hash"),
	CONSTRAINT "measured_links_kind_known" CHECK ("measured_links"."kind" in ('opened', 'clicked', 'document'))
);
--> statement-breakpoint
CREATE TABLE "measures" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "measures_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"writer_id" bigint NOT NULL,
	"outgoing_id" bigint,
	"email_id" bigint,
	"address" text NOT NULL,
	"sent_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "member_networks" (
	"address_hash" text PRIMARY KEY NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "visits" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "visits_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"measure_id" bigint NOT NULL,
	"link_id" bigint NOT NULL,
	"class" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "visits_class_known" CHECK ("visits"."class" in ('person', 'prefetch', 'scanner', 'own'))
);
--> statement-breakpoint
ALTER TABLE "workspace" ALTER COLUMN "writing_rights" SET DEFAULT '{"send":{"role":"rep","teamIds":[]},"share":{"role":"manager","teamIds":[]},"bulk":{"role":"manager","teamIds":[]},"measure":{"role":"manager","teamIds":[]}}'::jsonb;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD COLUMN "measures" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "users" ADD COLUMN "measures_emails" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "workspace" ADD COLUMN "measuring" jsonb DEFAULT '{"isOn":false,"notice":"","keepDays":90,"ownRanges":[],"never":[],"decided":null}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "measured" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "wire" "bytea";--> statement-breakpoint
ALTER TABLE "measured_links" ADD CONSTRAINT "measured_links_measure_id_measures_id_fk" FOREIGN KEY ("measure_id") REFERENCES "public"."measures"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "measures" ADD CONSTRAINT "measures_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "measures" ADD CONSTRAINT "measures_outgoing_id_outgoing_id_fk" FOREIGN KEY ("outgoing_id") REFERENCES "public"."outgoing"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "measures" ADD CONSTRAINT "measures_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_measure_id_measures_id_fk" FOREIGN KEY ("measure_id") REFERENCES "public"."measures"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "visits" ADD CONSTRAINT "visits_link_id_measured_links_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."measured_links"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "measured_links_by_measure" ON "measured_links" USING btree ("measure_id");--> statement-breakpoint
CREATE INDEX "measured_links_by_created" ON "measured_links" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "measures_by_writer" ON "measures" USING btree ("writer_id");--> statement-breakpoint
CREATE INDEX "measures_by_outgoing" ON "measures" USING btree ("outgoing_id");--> statement-breakpoint
CREATE INDEX "measures_by_email" ON "measures" USING btree ("email_id");--> statement-breakpoint
CREATE INDEX "measures_by_address" ON "measures" USING btree ("address");--> statement-breakpoint
CREATE INDEX "measures_by_created" ON "measures" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "visits_of_measure" ON "visits" USING btree ("measure_id");--> statement-breakpoint
CREATE INDEX "visits_of_link" ON "visits" USING btree ("link_id");--> statement-breakpoint
UPDATE workspace SET writing_rights = writing_rights || '{"measure":{"role":"manager","teamIds":[]}}'::jsonb WHERE NOT writing_rights ? 'measure';--> statement-breakpoint
GRANT SELECT ON measures, measured_links, visits TO fulvet_app;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON measures, measured_links, visits, member_networks TO fulvet_worker;--> statement-breakpoint
ALTER TABLE measures ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE measured_links ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE visits ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE member_networks ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON measures TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON measured_links TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON visits TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON member_networks TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- What was counted is seen by who wrote the email, and by those who may read it; not by those who know only that it exists.
CREATE POLICY written_or_read ON measures FOR SELECT TO fulvet_app USING (
  writer_id = (SELECT fulvet_acting_user()) OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = measures.email_id));--> statement-breakpoint
CREATE POLICY of_measure ON measured_links FOR SELECT TO fulvet_app USING (measure_id IN (SELECT m.id FROM measures m));--> statement-breakpoint
CREATE POLICY of_measure ON visits FOR SELECT TO fulvet_app USING (measure_id IN (SELECT m.id FROM measures m));
