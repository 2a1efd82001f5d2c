CREATE TABLE "work" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "work_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"kind" text NOT NULL,
	"state" text DEFAULT 'queued' NOT NULL,
	"phase" text DEFAULT '' NOT NULL,
	"done" bigint DEFAULT 0 NOT NULL,
	"total" bigint DEFAULT 0 NOT NULL,
	"message" text DEFAULT '' NOT NULL,
	"cancel_asked" boolean DEFAULT false NOT NULL,
	"interruptions" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"finished_at" timestamp with time zone,
	CONSTRAINT "work_kind_known" CHECK ("work"."kind" in ('import', 'trial', 'past run')),
	CONSTRAINT "work_state_known" CHECK ("work"."state" in ('open', 'queued', 'running', 'done', 'cancelled', 'failed'))
);
--> statement-breakpoint
ALTER TABLE "imports" ADD COLUMN "work_id" bigint;--> statement-breakpoint
ALTER TABLE "trials" ADD COLUMN "work_id" bigint;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD COLUMN "work_id" bigint;--> statement-breakpoint
ALTER TABLE "work" ADD COLUMN "of_row" bigint;--> statement-breakpoint
INSERT INTO "work" (kind, state, phase, done, total, message, cancel_asked, interruptions, created_at, started_at, finished_at, of_row)
  SELECT 'import', state, CASE WHEN phase = 'done' THEN 'deciding' ELSE phase END, CASE WHEN phase = 'reading' THEN read_bytes ELSE coalesce((counts ->> 'decided')::bigint, 0) END,
    CASE WHEN phase = 'reading' THEN total_bytes ELSE coalesce((counts ->> 'toDecide')::bigint, 0) END, message, cancel_asked, interruptions, created_at, started_at, finished_at, id FROM imports ORDER BY id;--> statement-breakpoint
INSERT INTO "work" (kind, state, done, total, message, cancel_asked, created_at, started_at, finished_at, of_row)
  SELECT 'trial', state, done, total, message, cancel_asked, created_at, CASE WHEN state <> 'queued' THEN created_at END, finished_at, id FROM trials ORDER BY id;--> statement-breakpoint
INSERT INTO "work" (kind, state, phase, done, total, message, cancel_asked, created_at, started_at, finished_at, of_row)
  SELECT 'past run', state, phase, done, total, message, cancel_asked, created_at, CASE WHEN state <> 'queued' THEN created_at END, finished_at, id FROM decide_runs ORDER BY id;--> statement-breakpoint
UPDATE imports r SET work_id = w.id FROM work w WHERE w.kind = 'import' AND w.of_row = r.id;--> statement-breakpoint
UPDATE trials r SET work_id = w.id FROM work w WHERE w.kind = 'trial' AND w.of_row = r.id;--> statement-breakpoint
UPDATE decide_runs r SET work_id = w.id FROM work w WHERE w.kind = 'past run' AND w.of_row = r.id;--> statement-breakpoint
ALTER TABLE "work" DROP COLUMN "of_row";--> statement-breakpoint
ALTER TABLE "imports" ALTER COLUMN "work_id" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "trials" ALTER COLUMN "work_id" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "decide_runs" ALTER COLUMN "work_id" SET NOT NULL;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON work TO fulvet_app, fulvet_worker;--> statement-breakpoint
GRANT USAGE, SELECT ON SEQUENCE work_id_seq TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE work ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON work TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- Who may see what the work is about may see how far it is. The rows that refer to it are made after it.
CREATE POLICY with_what_it_is_about ON work TO fulvet_app USING (EXISTS (SELECT FROM imports r WHERE r.work_id = work.id)
  OR EXISTS (SELECT FROM trials r WHERE r.work_id = work.id) OR EXISTS (SELECT FROM decide_runs r WHERE r.work_id = work.id)) WITH CHECK (true);--> statement-breakpoint
CREATE INDEX "work_unfinished" ON "work" USING btree ("kind") WHERE "work"."state" in ('queued', 'running');--> statement-breakpoint
ALTER TABLE "imports" ADD CONSTRAINT "imports_work_id_work_id_fk" FOREIGN KEY ("work_id") REFERENCES "public"."work"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trials" ADD CONSTRAINT "trials_work_id_work_id_fk" FOREIGN KEY ("work_id") REFERENCES "public"."work"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "decide_runs" ADD CONSTRAINT "decide_runs_work_id_work_id_fk" FOREIGN KEY ("work_id") REFERENCES "public"."work"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "imports_work_once" ON "imports" USING btree ("work_id");--> statement-breakpoint
CREATE UNIQUE INDEX "trials_work_once" ON "trials" USING btree ("work_id");--> statement-breakpoint
CREATE UNIQUE INDEX "decide_runs_work_once" ON "decide_runs" USING btree ("work_id");