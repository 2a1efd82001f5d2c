ALTER TABLE "emails" ADD COLUMN "is_reply" boolean DEFAULT false NOT NULL;
--> statement-breakpoint
UPDATE emails e SET is_reply = true WHERE e.subject_parent_id IS NOT NULL OR EXISTS (SELECT FROM email_contents c WHERE c.email_id = e.id AND c.subject <> c.base_subject AND NOT e.is_forward);
