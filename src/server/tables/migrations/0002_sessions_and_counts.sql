-- The table of connect-pg-simple.
CREATE TABLE sessions (
  sid varchar NOT NULL PRIMARY KEY,
  sess json NOT NULL,
  expire timestamp(6) NOT NULL
);
--> statement-breakpoint
CREATE INDEX sessions_expire ON sessions (expire);
--> statement-breakpoint
-- Adds a set of item rows, times +1 or -1, to the kept counts.
CREATE TYPE counted_item AS (library_id integer, category ltree, kind text, state text, document tsvector, sign integer);
--> statement-breakpoint
CREATE FUNCTION add_item_counts(changes counted_item[]) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
  -- One writer of items at a time until it commits: the counts are rows that everybody shares, and two writers who reach for them in
  -- different orders would wait for each other for ever.
  PERFORM pg_advisory_xact_lock(730116);
  INSERT INTO item_counts AS c (library_id, category, kind, state, count)
  SELECT library_id, category, kind, state, sum(sign) FROM unnest(changes)
  GROUP BY 1, 2, 3, 4 HAVING sum(sign) <> 0
  ON CONFLICT (library_id, category, kind, state) DO UPDATE SET count = c.count + excluded.count;
  -- An item counts once for a beginning, however many of its words begin so.
  INSERT INTO prefix_counts AS c (prefix, library_id, category, kind, state, count)
  SELECT prefix, library_id, category, kind, state, sum(sign) FROM (
    SELECT p.prefix, i.library_id, i.category, i.kind, i.state, i.sign
    FROM unnest(changes) AS i
    CROSS JOIN LATERAL (
      SELECT DISTINCT left(word, n) AS prefix
      FROM unnest(tsvector_to_array(i.document)) AS word
      CROSS JOIN LATERAL generate_series(1, least(length(word), 12)) AS n
    ) p
  ) d
  GROUP BY 1, 2, 3, 4, 5 HAVING sum(sign) <> 0
  ON CONFLICT (prefix, library_id, category, kind, state) DO UPDATE SET count = c.count + excluded.count;
END $$;
--> statement-breakpoint
CREATE FUNCTION count_items() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    PERFORM add_item_counts(array_agg((library_id, category, kind, state, document, 1)::counted_item)) FROM new_rows;
  ELSIF TG_OP = 'DELETE' THEN
    PERFORM add_item_counts(array_agg((library_id, category, kind, state, document, -1)::counted_item)) FROM old_rows;
  ELSE
    PERFORM add_item_counts(array_agg(r::counted_item)) FROM (
      SELECT n.library_id, n.category, n.kind, n.state, n.document, 1 FROM new_rows n JOIN old_rows o USING (id)
      WHERE (n.library_id, n.category, n.kind, n.state, n.document) IS DISTINCT FROM (o.library_id, o.category, o.kind, o.state, o.document)
      UNION ALL
      SELECT o.library_id, o.category, o.kind, o.state, o.document, -1 FROM new_rows n JOIN old_rows o USING (id)
      WHERE (n.library_id, n.category, n.kind, n.state, n.document) IS DISTINCT FROM (o.library_id, o.category, o.kind, o.state, o.document)
    ) r HAVING count(*) > 0;
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
