CREATE TABLE "mailbox_days" (
	"mailbox_id" bigint NOT NULL,
	"day" date NOT NULL,
	"emails" integer NOT NULL,
	CONSTRAINT "mailbox_days_mailbox_id_day_pk" PRIMARY KEY("mailbox_id","day")
);
--> statement-breakpoint
ALTER TABLE "mailbox_days" ADD CONSTRAINT "mailbox_days_mailbox_id_mailboxes_id_fk" FOREIGN KEY ("mailbox_id") REFERENCES "public"."mailboxes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE mailbox_days ENABLE ROW LEVEL SECURITY;--> statement-breakpoint
CREATE POLICY worker_all ON mailbox_days TO fulvet_worker USING (true) WITH CHECK (true);--> statement-breakpoint
GRANT SELECT, INSERT, UPDATE, DELETE ON mailbox_days TO fulvet_worker;--> statement-breakpoint
INSERT INTO mailbox_days (mailbox_id, day, emails)
  SELECT s.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date, count(DISTINCT s.email_id) FROM sightings s JOIN emails e ON e.id = s.email_id GROUP BY 1, 2;--> statement-breakpoint
-- An email counts once in a mailbox, in however many folders of it it was seen. Rows are written in one order, so that batches side by side wait for each other instead of failing.
CREATE FUNCTION fulvet_sightings_added() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  INSERT INTO mailbox_days AS d (mailbox_id, day, emails)
  SELECT c.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date, count(*)
  FROM (SELECT mailbox_id, email_id, count(*) AS copies FROM changed GROUP BY 1, 2) c JOIN emails e ON e.id = c.email_id
  WHERE (SELECT count(*) FROM sightings s WHERE s.email_id = c.email_id AND s.mailbox_id = c.mailbox_id) = c.copies
  GROUP BY 1, 2 ORDER BY 1, 2
  ON CONFLICT (mailbox_id, day) DO UPDATE SET emails = d.emails + EXCLUDED.emails;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER sightings_added AFTER INSERT ON sightings REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_sightings_added();
--> statement-breakpoint
-- Where the email itself is gone, the trigger before its deletion has counted.
CREATE FUNCTION fulvet_sightings_removed() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  WITH fewer AS (
    SELECT c.mailbox_id, (e.sent_at AT TIME ZONE 'UTC')::date AS day, count(*)::int AS emails
    FROM (SELECT DISTINCT mailbox_id, email_id FROM changed) c JOIN emails e ON e.id = c.email_id
    WHERE NOT EXISTS (SELECT FROM sightings s WHERE s.email_id = c.email_id AND s.mailbox_id = c.mailbox_id)
    GROUP BY 1, 2),
  locked AS (SELECT d.mailbox_id, d.day FROM mailbox_days d JOIN fewer f USING (mailbox_id, day) ORDER BY 1, 2 FOR UPDATE OF d)
  UPDATE mailbox_days d SET emails = d.emails - f.emails FROM fewer f JOIN locked l USING (mailbox_id, day) WHERE d.mailbox_id = f.mailbox_id AND d.day = f.day;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER sightings_removed AFTER DELETE ON sightings REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION fulvet_sightings_removed();
--> statement-breakpoint
CREATE FUNCTION fulvet_email_leaves_its_day() RETURNS trigger LANGUAGE plpgsql SECURITY DEFINER SET search_path = public AS $$
BEGIN
  UPDATE mailbox_days d SET emails = d.emails - 1
  WHERE d.day = (OLD.sent_at AT TIME ZONE 'UTC')::date AND d.mailbox_id IN (SELECT s.mailbox_id FROM sightings s WHERE s.email_id = OLD.id);
  IF TG_OP = 'DELETE' THEN RETURN OLD; END IF;
  INSERT INTO mailbox_days AS d (mailbox_id, day, emails)
  SELECT DISTINCT s.mailbox_id, (NEW.sent_at AT TIME ZONE 'UTC')::date, 1 FROM sightings s WHERE s.email_id = OLD.id
  ON CONFLICT (mailbox_id, day) DO UPDATE SET emails = d.emails + 1;
  RETURN NEW;
END $$;
--> statement-breakpoint
CREATE TRIGGER email_leaves_its_day BEFORE DELETE ON emails FOR EACH ROW EXECUTE FUNCTION fulvet_email_leaves_its_day();
--> statement-breakpoint
CREATE TRIGGER email_moves_to_another_day BEFORE UPDATE OF sent_at ON emails FOR EACH ROW
  WHEN ((OLD.sent_at AT TIME ZONE 'UTC')::date <> (NEW.sent_at AT TIME ZONE 'UTC')::date) EXECUTE FUNCTION fulvet_email_leaves_its_day();
