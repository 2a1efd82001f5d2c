-- What stood before a run names what emails say: it is the worker's alone. Which records it created is no secret of anybody.
GRANT SELECT, INSERT, UPDATE, DELETE ON run_befores, run_created TO fulvet_worker;
--> statement-breakpoint
DO $$
DECLARE name text;
BEGIN
  FOREACH name IN ARRAY ARRAY['run_befores', 'run_created']
  LOOP
    EXECUTE format('ALTER TABLE %I ENABLE ROW LEVEL SECURITY', name);
    EXECUTE format('CREATE POLICY worker_all ON %I TO fulvet_worker USING (true) WITH CHECK (true)', name);
  END LOOP;
END $$;
