CREATE INDEX "sightings_by_import" ON "sightings" USING btree ("import_id","email_id") WHERE import_id IS NOT NULL;--> statement-breakpoint
DROP POLICY own_steps ON undo_log;
--> statement-breakpoint
-- A step is its member's; what concerns the whole workspace is any administrator's to undo.
CREATE POLICY own_steps ON undo_log TO fulvet_app USING (
  user_id = (SELECT fulvet_acting_user())
  OR (kind IN ('keepOut', 'pastRun', 'draft', 'list', 'settings') AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active))
) WITH CHECK (user_id = (SELECT fulvet_acting_user())
  OR (kind IN ('keepOut', 'pastRun', 'draft', 'list', 'settings') AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active)));
--> statement-breakpoint
GRANT DELETE ON undo_log TO fulvet_app;
