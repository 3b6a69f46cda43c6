-- The table of connect-pg-simple.
CREATE TABLE sessions (
  sid varchar NOT NULL PRIMARY KEY,
  sess json NOT NULL,
  expire timestamp(6) NOT NULL
);
--> statement-breakpoint
CREATE INDEX sessions_expire ON sessions (expire);
--> statement-breakpoint
-- Keeps item_counts in step with items, a statement at a time. Rows are taken in key order, so that two writers never wait for each other.
CREATE FUNCTION count_items() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO item_counts AS c (library_id, category, kind, state, count)
    SELECT library_id, category, kind, state, count(*) FROM new_rows GROUP BY 1, 2, 3, 4 ORDER BY 1, 2, 3, 4
    ON CONFLICT (library_id, category, kind, state) DO UPDATE SET count = c.count + excluded.count;
  ELSIF TG_OP = 'DELETE' THEN
    INSERT INTO item_counts AS c (library_id, category, kind, state, count)
    SELECT library_id, category, kind, state, -count(*) FROM old_rows GROUP BY 1, 2, 3, 4 ORDER BY 1, 2, 3, 4
    ON CONFLICT (library_id, category, kind, state) DO UPDATE SET count = c.count + excluded.count;
  ELSE
    INSERT INTO item_counts AS c (library_id, category, kind, state, count)
    SELECT library_id, category, kind, state, sum(n) FROM (
      SELECT library_id, category, kind, state, 1 AS n FROM new_rows
      UNION ALL
      SELECT library_id, category, kind, state, -1 FROM old_rows
    ) d GROUP BY 1, 2, 3, 4 HAVING sum(n) <> 0 ORDER BY 1, 2, 3, 4
    ON CONFLICT (library_id, category, kind, state) DO UPDATE SET count = c.count + excluded.count;
  END IF;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER count_inserted_items AFTER INSERT ON items REFERENCING NEW TABLE AS new_rows
  FOR EACH STATEMENT EXECUTE FUNCTION count_items();
--> statement-breakpoint
CREATE TRIGGER count_updated_items AFTER UPDATE ON items REFERENCING OLD TABLE AS old_rows NEW TABLE AS new_rows
  FOR EACH STATEMENT EXECUTE FUNCTION count_items();
--> statement-breakpoint
CREATE TRIGGER count_deleted_items AFTER DELETE ON items REFERENCING OLD TABLE AS old_rows
  FOR EACH STATEMENT EXECUTE FUNCTION count_items();
