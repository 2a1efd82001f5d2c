CREATE TABLE "activities" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "activities_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"direction" text,
	"text" text NOT NULL,
	"is_private" boolean DEFAULT false NOT NULL,
	"writer_id" bigint NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "activities_kind_known" CHECK ("activities"."kind" in ('call', 'meeting', 'letter', 'message', 'note')),
	CONSTRAINT "activities_direction_known" CHECK ("activities"."direction" in ('sent', 'received', 'both')),
	CONSTRAINT "activities_note_has_none" CHECK (("activities"."kind" = 'note') = ("activities"."direction" is null))
);
--> statement-breakpoint
CREATE TABLE "activity_changes" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "activity_changes_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"activity_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"was_private" boolean NOT NULL,
	"before" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "activity_records" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "activity_records_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"activity_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL
);
--> statement-breakpoint
ALTER TABLE "activities" ADD CONSTRAINT "activities_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "activity_changes" ADD CONSTRAINT "activity_changes_activity_id_activities_id_fk" FOREIGN KEY ("activity_id") REFERENCES "public"."activities"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "activity_records" ADD CONSTRAINT "activity_records_activity_id_activities_id_fk" FOREIGN KEY ("activity_id") REFERENCES "public"."activities"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "activities_by_writer" ON "activities" USING btree ("writer_id");--> statement-breakpoint
CREATE INDEX "activity_changes_of" ON "activity_changes" USING btree ("activity_id");--> statement-breakpoint
CREATE INDEX "activity_records_of" ON "activity_records" USING btree ("activity_id");--> statement-breakpoint
CREATE INDEX "activity_records_by_record" ON "activity_records" USING btree ("kind","record_id");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON activities, activity_records, activity_changes TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE activities ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE activity_records ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE activity_changes ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON activities TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON activity_records TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON activity_changes TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- One's own; what is about a record that one sees, unless it is its writer's alone.
CREATE POLICY own_or_of_seen_record ON activities FOR SELECT TO fulvet_app USING (
  writer_id = (SELECT fulvet_acting_user())
  OR (NOT is_private AND removed_at IS NULL AND EXISTS (
    SELECT FROM activity_records a JOIN records r ON r.kind = a.kind AND r.id = a.record_id WHERE a.activity_id = activities.id)));--> statement-breakpoint
CREATE POLICY own_writing ON activities TO fulvet_app
  USING (writer_id = (SELECT fulvet_acting_user())) WITH CHECK (writer_id = (SELECT fulvet_acting_user()));--> statement-breakpoint
-- Which records: those that one sees. It names no one and says nothing; what is told of an activity is asked of the table above.
CREATE POLICY of_seen_record ON activity_records FOR SELECT TO fulvet_app USING (
  EXISTS (SELECT FROM records r WHERE r.kind = activity_records.kind AND r.id = activity_records.record_id));--> statement-breakpoint
-- Asked apart from the policies of the table itself, which ask for these records.
CREATE FUNCTION fulvet_own_activity(wanted bigint) RETURNS boolean LANGUAGE sql STABLE SECURITY DEFINER SET search_path = public AS $$
  SELECT EXISTS (SELECT FROM activities a WHERE a.id = wanted AND a.writer_id = fulvet_acting_user())
$$;--> statement-breakpoint
REVOKE ALL ON FUNCTION fulvet_own_activity(bigint) FROM PUBLIC;--> statement-breakpoint
GRANT EXECUTE ON FUNCTION fulvet_own_activity(bigint) TO fulvet_app, fulvet_worker;--> statement-breakpoint
CREATE POLICY own_adding ON activity_records FOR INSERT TO fulvet_app WITH CHECK (
  fulvet_own_activity(activity_id));--> statement-breakpoint
CREATE POLICY own_taking_off ON activity_records FOR DELETE TO fulvet_app USING (
  fulvet_own_activity(activity_id));--> statement-breakpoint
CREATE POLICY own_changes ON activity_changes TO fulvet_app
  USING (activity_id IN (SELECT a.id FROM activities a WHERE NOT was_private OR a.writer_id = (SELECT fulvet_acting_user()))) WITH CHECK (activity_id IN (SELECT a.id FROM activities a WHERE a.writer_id = (SELECT fulvet_acting_user())));
