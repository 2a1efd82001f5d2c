DROP INDEX "emails_by_time";--> statement-breakpoint
DROP INDEX "mailbox_events_by_time";--> statement-breakpoint
DROP INDEX "audit_log_by_time";--> statement-breakpoint
DROP INDEX "record_changes_by_record";--> statement-breakpoint
DROP INDEX "repairs_by_user";--> statement-breakpoint
DROP INDEX "access_requests_by_asker";--> statement-breakpoint
CREATE INDEX "emails_by_time" ON "emails" USING btree ("sent_at","id");--> statement-breakpoint
CREATE INDEX "mailbox_events_by_time" ON "mailbox_events" USING btree ("mailbox_id","id");--> statement-breakpoint
CREATE INDEX "audit_log_by_time" ON "audit_log" USING btree ("at","id");--> statement-breakpoint
CREATE INDEX "record_changes_by_record" ON "record_changes" USING btree ("kind","record_id","id");--> statement-breakpoint
CREATE INDEX "repairs_by_user" ON "repairs" USING btree ("user_id","id");--> statement-breakpoint
CREATE INDEX "access_requests_by_asker" ON "access_requests" USING btree ("asked_by","id");