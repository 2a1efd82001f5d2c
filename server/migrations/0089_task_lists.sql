CREATE TABLE "calendar_todos" (
	"calendar_id" bigint NOT NULL,
	"href" text NOT NULL,
	"etag" text NOT NULL,
	"task_id" bigint,
	"base" jsonb,
	CONSTRAINT "calendar_todos_calendar_id_href_pk" PRIMARY KEY("calendar_id","href")
);
--> statement-breakpoint
ALTER TABLE "calendars" DROP CONSTRAINT "calendars_kind_known";--> statement-breakpoint
DROP INDEX "calendars_once";--> statement-breakpoint
ALTER TABLE "calendars" ADD COLUMN "followed_by" bigint;--> statement-breakpoint
ALTER TABLE "calendar_todos" ADD CONSTRAINT "calendar_todos_calendar_id_calendars_id_fk" FOREIGN KEY ("calendar_id") REFERENCES "public"."calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendar_todos" ADD CONSTRAINT "calendar_todos_task_id_tasks_id_fk" FOREIGN KEY ("task_id") REFERENCES "public"."tasks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "calendar_todos_once" ON "calendar_todos" USING btree ("calendar_id","task_id");--> statement-breakpoint
CREATE INDEX "calendar_todos_by_task" ON "calendar_todos" USING btree ("task_id");--> statement-breakpoint
ALTER TABLE "calendars" ADD CONSTRAINT "calendars_followed_by_users_id_fk" FOREIGN KEY ("followed_by") REFERENCES "public"."users"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "calendars_once" ON "calendars" USING btree ("mailbox_id","kind","url");--> statement-breakpoint
ALTER TABLE "calendars" ADD CONSTRAINT "calendars_kind_known" CHECK ("calendars"."kind" in ('caldav', 'subscribed', 'tasks'));--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON calendar_todos TO fulvet_worker;--> statement-breakpoint
ALTER TABLE calendar_todos ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON calendar_todos TO fulvet_worker USING (true) WITH CHECK (true);
