CREATE TABLE "calendar_accounts" (
	"mailbox_id" bigint PRIMARY KEY NOT NULL,
	"url" text NOT NULL,
	"user_name" text NOT NULL,
	"sealed" text,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "calendar_events" (
	"calendar_id" bigint NOT NULL,
	"href" text NOT NULL,
	"identity" text NOT NULL,
	"email_id" bigint,
	CONSTRAINT "calendar_events_calendar_id_href_identity_pk" PRIMARY KEY("calendar_id","href","identity")
);
--> statement-breakpoint
CREATE TABLE "calendar_objects" (
	"calendar_id" bigint NOT NULL,
	"href" text NOT NULL,
	"etag" text NOT NULL,
	"recurs" boolean NOT NULL,
	"read_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "calendar_objects_calendar_id_href_pk" PRIMARY KEY("calendar_id","href")
);
--> statement-breakpoint
CREATE TABLE "calendars" (
	"id" bigint PRIMARY KEY GENERATED ALWAYS AS IDENTITY (sequence name "calendars_id_seq" INCREMENT BY 1 MINVALUE 1 MAXVALUE 9223372036854775807 START WITH 1 CACHE 1),
	"mailbox_id" bigint NOT NULL,
	"kind" text NOT NULL,
	"url" text NOT NULL,
	"sealed" text,
	"name" text NOT NULL,
	"followed" boolean DEFAULT false NOT NULL,
	"etag" text DEFAULT '' NOT NULL,
	"problem" jsonb,
	"read_at" timestamp with time zone,
	"next_at" timestamp with time zone DEFAULT now() NOT NULL,
	"lease_until" timestamp with time zone,
	CONSTRAINT "calendars_kind_known" CHECK ("calendars"."kind" in ('caldav', 'subscribed'))
);
--> statement-breakpoint
ALTER TABLE "meetings" ADD COLUMN "occurs_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "meetings" ADD COLUMN "whole_day" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "meetings" ADD COLUMN "answers" jsonb DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "calendar_accounts" ADD CONSTRAINT "calendar_accounts_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendar_events" ADD CONSTRAINT "calendar_events_calendar_id_calendars_id_fk" FOREIGN KEY ("calendar_id") REFERENCES "public"."calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendar_events" ADD CONSTRAINT "calendar_events_email_id_emails_id_fk" FOREIGN KEY ("email_id") REFERENCES "public"."emails"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendar_objects" ADD CONSTRAINT "calendar_objects_calendar_id_calendars_id_fk" FOREIGN KEY ("calendar_id") REFERENCES "public"."calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "calendars" ADD CONSTRAINT "calendars_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "calendar_events_by_email" ON "calendar_events" USING btree ("email_id");--> statement-breakpoint
CREATE UNIQUE INDEX "calendars_once" ON "calendars" USING btree ("mailbox_id","url");--> statement-breakpoint
CREATE INDEX "calendars_due" ON "calendars" USING btree ("next_at") WHERE "calendars"."followed";--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON calendar_accounts, calendars, calendar_objects, calendar_events TO fulvet_worker;--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['calendar_accounts', 'calendars', 'calendar_objects', 'calendar_events']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
END $$;
--> statement-breakpoint
-- Events are no emails of a mailbox.
CREATE OR REPLACE FUNCTION fulvet_sightings_added() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  INSERT INTO mailbox_days AS d (mailbox_id, day, emails)
  SELECT c.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date, count(*)
  FROM (SELECT mailbox_id, email_id, count(*) AS copies FROM changed GROUP BY 1, 2) c JOIN emails e ON e.id = c.email_id AND e.mail_class <> 'event'
  WHERE (SELECT count(*) FROM sightings s WHERE s.email_id = c.email_id AND s.mailbox_id = c.mailbox_id) = c.copies
  GROUP BY 1, 2 ORDER BY 1, 2
  ON CONFLICT (mailbox_id, day) DO UPDATE SET emails = d.emails + EXCLUDED.emails;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_sightings_removed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  WITH fewer AS (
    SELECT c.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date AS day, count(*)::int AS emails
    FROM (SELECT DISTINCT mailbox_id, email_id FROM changed) c JOIN emails e ON e.id = c.email_id AND e.mail_class <> 'event'
    WHERE NOT EXISTS (SELECT FROM sightings s WHERE s.email_id = c.email_id AND s.mailbox_id = c.mailbox_id)
    GROUP BY 1, 2),
  locked AS (SELECT d.mailbox_id, d.day FROM mailbox_days d JOIN fewer f USING (mailbox_id, day) ORDER BY 1, 2 FOR UPDATE OF d)
  UPDATE mailbox_days d SET emails = d.emails - f.emails FROM fewer f JOIN locked l USING (mailbox_id, day) WHERE d.mailbox_id = f.mailbox_id AND d.day = f.day;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE OR REPLACE FUNCTION fulvet_email_leaves_its_day() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  IF OLD.mail_class = 'event' THEN
    IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
    RETURN NEW;
  END IF;
  UPDATE mailbox_days d SET emails = d.emails - 1
  WHERE d.day = (OLD.sent_at AT TIME ZONE 'UTC')::date AND d.mailbox_id IN (SELECT s.mailbox_id FROM sightings s WHERE s.email_id = OLD.id);
  IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
  INSERT INTO mailbox_days AS d (mailbox_id, day, emails)
  SELECT DISTINCT s.mailbox_id, (NEW.sent_at AT TIME ZONE 'UTC')::date, 1 FROM sightings s WHERE s.email_id = OLD.id
  ON CONFLICT (mailbox_id, day) DO UPDATE SET emails = d.emails + 1;
  RETURN NEW;
END $$;
