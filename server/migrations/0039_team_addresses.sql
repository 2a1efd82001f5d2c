CREATE TABLE "team_addresses" (
	"address" text PRIMARY KEY NOT NULL,
	"confirmed_by" bigint,
	"confirmed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "team_addresses" ADD CONSTRAINT "team_addresses_confirmed_by_users_id_fk" FOREIGN KEY ("confirmed_by") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON team_addresses TO fulvet_worker;
--> statement-breakpoint
GRANT SELECT ON team_addresses TO fulvet_app;
--> statement-breakpoint
ALTER TABLE team_addresses ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON team_addresses TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
-- Whose rulebook is compiled for them needs to know who is one of us.
CREATE POLICY signed_in ON team_addresses FOR SELECT TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
-- What counted as ours until now stays so.
INSERT INTO team_addresses (address) SELECT address FROM mailboxes UNION SELECT unnest(aliases) FROM mailboxes;
