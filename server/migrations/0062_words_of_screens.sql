-- Rulebooks and decisions say what the screens say: step, unfiled, ignore, take in, leave to its owner.
-- Inside a string of JSON each quote has a backslash before it, so these pairs are found only where they are keys and values.
CREATE FUNCTION pg_temp.in_current_words(old jsonb) RETURNS jsonb LANGUAGE plpgsql IMMUTABLE STRICT AS $$
DECLARE
  said text := old::text;
  pair text[];
BEGIN
  FOREACH pair SLICE 1 IN ARRAY ARRAY[
    ['"stop": "', '"step": "'], ['"stops": ', '"steps": '],
    ['"verdict": "left loose"', '"verdict": "left to its owner"'], ['"verdict": "tracked"', '"verdict": "taken in"'],
    ['"left loose": ', '"left to its owner": '], ['"tracked": ', '"taken in": '],
    ['"outcome": "loose"', '"outcome": "unfiled"'], ['"loose": ', '"unfiled": '],
    ['"do": "leaveLoose"', '"do": "leaveToOwner"'], ['"do": "track"', '"do": "takeIn"'], ['"do": "disregard"', '"do": "ignore"'],
    ['"effect": "disregard"', '"effect": "ignore"'], ['"fact": "nobody left"', '"fact": "no one left"'], ['"disregarded": ', '"ignored": ']]
  LOOP
    said := replace(said, pair[1], pair[2]);
  END LOOP;
  RETURN said::jsonb;
END $$;--> statement-breakpoint
ALTER TABLE "emails" DROP CONSTRAINT "emails_outcome_known";--> statement-breakpoint
ALTER TABLE "retention" DROP CONSTRAINT "retention_kind_known";--> statement-breakpoint
ALTER TABLE "mailbox_events" DROP CONSTRAINT "mailbox_events_level_known";--> statement-breakpoint
ALTER TABLE "emails" RENAME COLUMN "stops" TO "steps";--> statement-breakpoint
ALTER TABLE "trial_counted" RENAME COLUMN "stops" TO "steps";--> statement-breakpoint
ALTER TABLE "trial_rows" RENAME COLUMN "stop" TO "step";--> statement-breakpoint
UPDATE emails SET outcome = CASE outcome WHEN 'loose' THEN 'unfiled' ELSE outcome END, steps = pg_temp.in_current_words(steps) WHERE outcome = 'loose' OR steps IS NOT NULL;--> statement-breakpoint
UPDATE dockets SET docket = pg_temp.in_current_words(docket), questions = pg_temp.in_current_words(questions);--> statement-breakpoint
UPDATE mailbox_events SET level = 'solved' WHERE level = 'mended';--> statement-breakpoint
UPDATE retention SET kind = 'unfiled' WHERE kind = 'loose';--> statement-breakpoint
UPDATE rulebooks SET document = pg_temp.in_current_words(document);--> statement-breakpoint
UPDATE rulebook_draft SET document = pg_temp.in_current_words(document);--> statement-breakpoint
UPDATE undo_log SET payload = pg_temp.in_current_words(payload) WHERE kind = 'draft';--> statement-breakpoint
UPDATE trials SET document = pg_temp.in_current_words(document), summary = pg_temp.in_current_words(summary);--> statement-breakpoint
UPDATE trial_rows SET outcome_before = CASE outcome_before WHEN 'loose' THEN 'unfiled' ELSE outcome_before END, outcome_after = CASE outcome_after WHEN 'loose' THEN 'unfiled' ELSE outcome_after END;--> statement-breakpoint
UPDATE trial_counted SET outcome = CASE outcome WHEN 'loose' THEN 'unfiled' ELSE outcome END, steps = pg_temp.in_current_words(steps);--> statement-breakpoint
UPDATE trial_dockets SET docket = pg_temp.in_current_words(docket);--> statement-breakpoint
UPDATE run_befores SET email = pg_temp.in_current_words(email), docket = pg_temp.in_current_words(docket);--> statement-breakpoint
UPDATE run_staged SET decision = pg_temp.in_current_words(decision);--> statement-breakpoint
ALTER TABLE "emails" ADD CONSTRAINT "emails_outcome_known" CHECK ("emails"."outcome" in ('filed', 'waiting', 'unfiled', 'kept out', 'sealed'));--> statement-breakpoint
ALTER TABLE "mailbox_events" ADD CONSTRAINT "mailbox_events_level_known" CHECK ("mailbox_events"."level" in ('note', 'problem', 'solved'));--> statement-breakpoint
ALTER TABLE "retention" ADD CONSTRAINT "retention_kind_known" CHECK ("retention"."kind" in ('keptOut', 'unfiled', 'closedDeals'));--> statement-breakpoint
ALTER TABLE "own_words" RENAME TO "sharing_choices";--> statement-breakpoint
ALTER SEQUENCE "own_words_id_seq" RENAME TO "sharing_choices_id_seq";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_pkey" TO "sharing_choices_pkey";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_user_id_users_id_fk" TO "sharing_choices_user_id_users_id_fk";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_email_id_emails_id_fk" TO "sharing_choices_email_id_emails_id_fk";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_deed_known" TO "sharing_choices_deed_known";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_scope_known" TO "sharing_choices_scope_known";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_level_known" TO "sharing_choices_level_known";--> statement-breakpoint
ALTER TABLE "sharing_choices" RENAME CONSTRAINT "own_words_about" TO "sharing_choices_about";--> statement-breakpoint
ALTER INDEX "own_words_standing" RENAME TO "sharing_choices_standing";
