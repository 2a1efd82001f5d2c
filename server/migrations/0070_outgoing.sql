CREATE TABLE "outgoing" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "outgoing_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"writer_id" bigint NOT NULL,
	"mailbox_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"state" text DEFAULT 'draft' NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"to" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"cc" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"bcc" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"subject" text DEFAULT '' NOT NULL,
	"html" text DEFAULT '' NOT NULL,
	"quote" text DEFAULT '' NOT NULL,
	"with_quote" boolean DEFAULT true NOT NULL,
	"filing_how" text DEFAULT 'rules' NOT NULL,
	"filing_records" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"answers_id" bigint,
	"in_reply_to" text,
	"references" text[] DEFAULT '{}' NOT NULL,
	"message_id" text,
	"due_at" timestamp with time zone,
	"holder" text,
	"lease_until" timestamp with time zone,
	"tries" integer DEFAULT 0 NOT NULL,
	"source" "bytea",
	"content_begun" boolean DEFAULT false NOT NULL,
	"response" text,
	"problem" text DEFAULT '' NOT NULL,
	"sent_at" timestamp with time zone,
	"copied" boolean DEFAULT false NOT NULL,
	"email_id" bigint,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "outgoing_message_id_once" UNIQUE("message_id"),
	CONSTRAINT "outgoing_kind_known" CHECK ("outgoing"."kind" in ('new', 'answer', 'answer all', 'forward')),
	CONSTRAINT "outgoing_state_known" CHECK ("outgoing"."state" in ('draft', 'due', 'handing over', 'sent', 'refused', 'bounced', 'unclear')),
	CONSTRAINT "outgoing_filing_known" CHECK ("outgoing"."filing_how" in ('rules', 'records', 'none')),
	CONSTRAINT "outgoing_sent_has_id" CHECK ("outgoing"."state" not in ('handing over', 'sent', 'bounced', 'unclear') or "outgoing"."message_id" is not null)
);
--> statement-breakpoint
CREATE TABLE "outgoing_files" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "outgoing_files_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"outgoing_id" bigint NOT NULL,
	"name" text NOT NULL,
	"type" text NOT NULL,
	"size" integer NOT NULL,
	"content" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "outgoing" ADD CONSTRAINT "outgoing_writer_id_users_id_fk" FOREIGN KEY ("writer_id") REFERENCES "public"."users"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "outgoing" ADD CONSTRAINT "outgoing_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "outgoing" ADD CONSTRAINT "outgoing_answers_id_emails_id_fk" FOREIGN KEY ("answers_id") REFERENCES "public"."emails"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "outgoing" ADD CONSTRAINT "outgoing_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "outgoing_files" ADD CONSTRAINT "outgoing_files_outgoing_id_outgoing_id_fk" FOREIGN KEY ("outgoing_id") REFERENCES "public"."outgoing"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "outgoing_by_writer" ON "outgoing" USING btree ("writer_id","changed_at");--> statement-breakpoint
CREATE INDEX "outgoing_to_do" ON "outgoing" USING btree ("due_at") WHERE "outgoing"."state" in ('due', 'handing over') or ("outgoing"."state" = 'sent' and "outgoing"."source" is not null);--> statement-breakpoint
CREATE INDEX "outgoing_by_answered" ON "outgoing" USING btree ("answers_id");--> statement-breakpoint
CREATE INDEX "outgoing_by_email" ON "outgoing" USING btree ("email_id");--> statement-breakpoint
CREATE INDEX "outgoing_files_of" ON "outgoing_files" USING btree ("outgoing_id");--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON outgoing, outgoing_files TO fulvet_app, fulvet_worker;--> statement-breakpoint
ALTER TABLE outgoing ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
ALTER TABLE outgoing_files ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON outgoing TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
CREATE POLICY worker_all ON outgoing_files TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
-- What someone writes is theirs alone, whoever reads their mailbox.
CREATE POLICY own_writing ON outgoing TO fulvet_app
  USING (writer_id = (SELECT fulvet_acting_user())) WITH CHECK (writer_id = (SELECT fulvet_acting_user()));--> statement-breakpoint
CREATE POLICY own_writing ON outgoing_files TO fulvet_app
  USING (outgoing_id IN (SELECT o.id FROM outgoing o WHERE o.writer_id = (SELECT fulvet_acting_user())))
  WITH CHECK (outgoing_id IN (SELECT o.id FROM outgoing o WHERE o.writer_id = (SELECT fulvet_acting_user())));
--> statement-breakpoint
-- A delivery report about an email that was sent from here, which its recipients and their servers alone can name.
CREATE FUNCTION fulvet_outgoing_came_back() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  UPDATE outgoing SET state = 'bounced', changed_at = clock_timestamp(),
    problem = 'It came back: a recipient could not be reached. The delivery report in your mailbox says who, and why.'
  WHERE message_id = NEW.reported_id AND state = 'sent';
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER outgoing_came_back AFTER INSERT ON delivery_failures FOR EACH ROW EXECUTE FUNCTION fulvet_outgoing_came_back();
