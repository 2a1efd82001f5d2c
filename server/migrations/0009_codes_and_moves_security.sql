GRANT SELECT, INSERT, UPDATE, DELETE ON contact_accounts TO fulvet_app, fulvet_worker;
--> statement-breakpoint
ALTER TABLE contact_accounts ENABLE ROW LEVEL SECURITY;
--> statement-breakpoint
CREATE POLICY worker_all ON contact_accounts TO fulvet_worker USING (true) WITH CHECK (true);
--> statement-breakpoint
CREATE POLICY signed_in ON contact_accounts TO fulvet_app USING ((SELECT fulvet_acting_user()) IS NOT NULL) WITH CHECK ((SELECT fulvet_acting_user()) IS NOT NULL);
--> statement-breakpoint
-- Codes in mail that is stored already: words of unquoted lines with a letter and a digit.
UPDATE email_contents c SET codes = found.codes
FROM (
  SELECT email_id, array_agg(DISTINCT upper(m[1])) AS codes
  FROM email_contents, regexp_matches(regexp_replace(body, '^\s*[>|].*$', '', 'gn'), '[[:alnum:]]+(?:[-_/.#][[:alnum:]]+)*', 'g') AS m
  WHERE length(m[1]) >= 4 AND m[1] ~ '[0-9]' AND m[1] ~ '[[:alpha:]]'
  GROUP BY email_id
) found WHERE found.email_id = c.email_id;
