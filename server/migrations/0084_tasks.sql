CREATE TABLE "task_records" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "task_records_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"task_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"record_id" bigint NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tasks" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "tasks_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"text" text NOT NULL,
	"details" text DEFAULT '' NOT NULL,
	"due_day" text,
	"due_time" text,
	"zone" text DEFAULT 'UTC' NOT NULL,
	"day_at" timestamp with time zone,
	"due_at" timestamp with time zone,
	"first_day" text,
	"repeat" jsonb,
	"assignee_id" bigint NOT NULL,
	"writer_id" bigint NOT NULL,
	"is_private" boolean DEFAULT false NOT NULL,
	"email_id" bigint,
	"ends_by" text,
	"since" timestamp with time zone DEFAULT now() NOT NULL,
	"done_at" timestamp with time zone,
	"done_by" bigint,
	"removed_at" timestamp with time zone,
	"revision" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "tasks_ends_known" CHECK ("tasks"."ends_by" in ('our answer', 'their answer', 'meeting')),
	CONSTRAINT "tasks_due_whole" CHECK (("tasks"."due_day" is null) = ("tasks"."due_at" is null) and ("tasks"."due_day" is null) = ("tasks"."day_at" is null))
);
--> statement-breakpoint
ALTER TABLE "task_records" ADD CONSTRAINT "task_records_task_id_tasks_id_fk" FOREIGN KEY ("task_id") REFERENCES "public"."tasks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tasks" ADD CONSTRAINT "tasks_assignee_id_users_id_fk" FOREIGN KEY ("assignee_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tasks" ADD CONSTRAINT "tasks_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tasks" ADD CONSTRAINT "tasks_done_by_users_id_fk" FOREIGN KEY ("done_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "task_records_of" ON "task_records" USING btree ("task_id");--> statement-breakpoint
CREATE INDEX "task_records_by_record" ON "task_records" USING btree ("kind","record_id");--> statement-breakpoint
CREATE INDEX "tasks_open" ON "tasks" USING btree ("assignee_id","due_at") WHERE "tasks"."done_at" IS NULL AND "tasks"."removed_at" IS NULL;--> statement-breakpoint
CREATE INDEX "tasks_done" ON "tasks" USING btree ("assignee_id","done_at") WHERE "tasks"."done_at" IS NOT NULL;--> statement-breakpoint
CREATE INDEX "tasks_by_writer" ON "tasks" USING btree ("writer_id");--> statement-breakpoint
CREATE INDEX "tasks_of_email" ON "tasks" USING btree ("email_id");--> statement-breakpoint
CREATE INDEX "tasks_done_by" ON "tasks" USING btree ("done_by");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON tasks, task_records TO fulvet_worker;--> statement-breakpoint
-- What members do with tasks is done for them, after it was asked here what they may see.
GRANT SELECT ON tasks, task_records TO fulvet_app;--> statement-breakpoint
ALTER TABLE tasks ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE task_records ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON tasks TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON task_records TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- One's own; what is about a record that one sees and came from no email that one may not read, unless it is for its writer and who does it alone.
CREATE POLICY own_or_of_seen_record ON tasks FOR SELECT TO fulvet_app USING (
  (SELECT fulvet_acting_user()) IN (writer_id, assignee_id)
  OR (NOT is_private AND removed_at IS NULL
    AND (email_id IS NULL OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = tasks.email_id))
    AND EXISTS (SELECT FROM task_records t JOIN records r ON r.kind = t.kind AND r.id = t.record_id WHERE t.task_id = tasks.id)));--> statement-breakpoint
-- Which records: those that one sees. It says nothing of the task; that is asked of the table above.
CREATE POLICY of_seen_record ON task_records FOR SELECT TO fulvet_app USING (
  EXISTS (SELECT FROM records r WHERE r.kind = task_records.kind AND r.id = task_records.record_id));
