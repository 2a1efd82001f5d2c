CREATE TABLE "undo_log" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "undo_log_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"user_id" bigint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"kind" text NOT NULL,
	"summary" text NOT NULL,
	"payload" jsonb NOT NULL,
	"undone_at" timestamp with time zone,
	"undone_by" bigint
);
--> statement-breakpoint
ALTER TABLE "undo_log" ADD CONSTRAINT "undo_log_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "undo_log" ADD CONSTRAINT "undo_log_undone_by_users_id_fk" FOREIGN KEY ("undone_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "undo_log_by_member" ON "undo_log" USING btree ("user_id","id");
--> statement-breakpoint
INSERT INTO undo_log (user_id, at, kind, summary, payload, undone_at)
SELECT user_id, created_at, 'keepOut', summary, jsonb_build_object('entryId', entry_id), undone_at FROM undo_steps ORDER BY id;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE ON undo_log TO fulvet_app;
--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON undo_log TO fulvet_worker;
--> statement-breakpoint
ALTER TABLE undo_log ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON undo_log TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
-- A step is its member's; what changed the rulebook is any administrator's to undo.
CREATE POLICY own_steps ON undo_log TO fulvet_app USING (
  user_id = (SELECT fulvet_acting_user())
  OR (kind = 'keepOut' AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active))
) WITH CHECK (user_id = (SELECT fulvet_acting_user())
  OR (kind = 'keepOut' AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active)));
