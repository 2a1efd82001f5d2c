-- The sample world concerns the whole workspace: any administrator removes it.
DROP POLICY own_steps ON undo_log;
--> statement-breakpoint
CREATE POLICY own_steps ON undo_log TO fulvet_app USING (
  user_id = (SELECT fulvet_acting_user())
  OR (kind IN ('keepOut', 'pastRun', 'draft', 'list', 'settings', 'sample') AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active))
) WITH CHECK (user_id = (SELECT fulvet_acting_user())
  OR (kind IN ('keepOut', 'pastRun', 'draft', 'list', 'settings', 'sample') AND EXISTS (SELECT FROM users u WHERE u.id = (SELECT fulvet_acting_user()) AND u.role = 'admin' AND u.active)));
