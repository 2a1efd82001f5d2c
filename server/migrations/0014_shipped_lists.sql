ALTER TABLE "kept_entries" DROP CONSTRAINT "kept_entries_kind_known";--> statement-breakpoint
ALTER TABLE "kept_lists" ADD COLUMN "shipped" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "kept_lists" ADD COLUMN "changed_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
CREATE INDEX "kept_entries_by_value" ON "kept_entries" USING btree ("value");--> statement-breakpoint
ALTER TABLE "kept_entries" ADD CONSTRAINT "kept_entries_kind_known" CHECK ("kept_entries"."kind" in ('domain', 'address', 'local'));