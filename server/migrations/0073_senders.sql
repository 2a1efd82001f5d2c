CREATE TABLE "senders" (
	"user_id" bigint NOT NULL,
	"mailbox_id" bigint NOT NULL,
	"address" text NOT NULL,
	"name" text DEFAULT '' NOT NULL,
	"signature" text DEFAULT '' NOT NULL,
	"proven_at" timestamp with time zone,
	"code_hash" text,
	"code_sent_at" timestamp with time zone,
	"code_tries" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "senders_of" PRIMARY KEY("user_id","mailbox_id","address")
);
--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "from_address" text;--> statement-breakpoint
ALTER TABLE "outgoing" ADD COLUMN "with_signature" boolean DEFAULT true NOT NULL;--> statement-breakpoint
ALTER TABLE "senders" ADD CONSTRAINT "senders_user_id_users_id_fk" FOREIGN KEY ("user_id") REFERENCES "public"."users"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "senders" ADD CONSTRAINT "senders_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON senders TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE senders ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON senders TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY own_senders ON senders TO fulvet_app
  USING (user_id = (SELECT fulvet_acting_user())) WITH CHECK (user_id = (SELECT fulvet_acting_user()));
