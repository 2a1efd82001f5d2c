-- Name, kind and owner of every record; through it each member sees those in their reach.
CREATE VIEW records WITH (security_invoker) AS
  SELECT 'account' AS kind, id, name, owner_id FROM accounts
  UNION ALL SELECT 'contact', id, name, owner_id FROM contacts
  UNION ALL SELECT 'lead', id, name, owner_id FROM leads
  UNION ALL SELECT 'deal', id, name, owner_id FROM deals;
--> statement-breakpoint
GRANT SELECT ON records TO fulvet_app, fulvet_worker;
