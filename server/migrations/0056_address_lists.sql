-- The lists of domains and addresses are called address lists, as on screen.
ALTER TABLE kept_lists RENAME TO address_lists;
--> statement-breakpoint
ALTER TABLE kept_entries RENAME TO address_list_entries;
--> statement-breakpoint
DO $$
DECLARE named record;
BEGIN
  FOR named IN SELECT conname AS name, conrelid::regclass AS of FROM pg_constraint WHERE conname LIKE 'kept\_lists%' OR conname LIKE 'kept\_entries%' LOOP
    EXECUTE format('ALTER TABLE %s RENAME CONSTRAINT %I TO %I', named.of, named.name,
      replace(replace(named.name, 'kept_entries', 'address_list_entries'), 'kept_lists', 'address_lists'));
  END LOOP;
  FOR named IN SELECT relname AS name, relkind AS kind FROM pg_class WHERE relkind IN ('i', 'S') AND relnamespace = 'public'::regnamespace AND (relname LIKE 'kept\_lists%' OR relname LIKE 'kept\_entries%') LOOP
    EXECUTE format('ALTER %s %I RENAME TO %I', CASE named.kind WHEN 'S' THEN 'SEQUENCE' ELSE 'INDEX' END, named.name,
      replace(replace(named.name, 'kept_entries', 'address_list_entries'), 'kept_lists', 'address_lists'));
  END LOOP;
END $$;
