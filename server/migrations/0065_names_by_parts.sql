-- Parts of names, addresses, domains and codes are found by an index where PostgreSQL has pg_trgm, as Debian's package does; without it all are read.
DO $$
DECLARE
  column_name text[];
BEGIN
  CREATE EXTENSION IF NOT EXISTS pg_trgm SCHEMA public;
  FOREACH column_name SLICE 1 IN ARRAY ARRAY[
    ['contacts', 'name'], ['contacts', 'title'], ['leads', 'name'], ['leads', 'company'], ['accounts', 'name'],
    ['deals', 'name'], ['deals', 'code'], ['person_addresses', 'address'], ['account_domains', 'domain']]
  LOOP
    EXECUTE format('CREATE INDEX %I ON %I USING gin (%I gin_trgm_ops)', column_name[1] || '_' || column_name[2] || '_parts', column_name[1], column_name[2]);
  END LOOP;
EXCEPTION
  WHEN insufficient_privilege OR undefined_file OR feature_not_supported OR undefined_object THEN
    RAISE NOTICE 'pg_trgm is not there: parts of names are looked for without an index';
END $$;
