CREATE TABLE "item_changes" (
	"changed_in" "xid8" DEFAULT pg_current_xact_id() NOT NULL,
	"what" text DEFAULT 'item' NOT NULL,
	"id" integer DEFAULT 0 NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE INDEX "item_changes_changed_in" ON "item_changes" USING btree ("changed_in");
--> statement-breakpoint
CREATE FUNCTION note_changed_items() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (id) SELECT id FROM changed_rows;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_items_of_pins() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (id) SELECT DISTINCT item_id FROM changed_rows;
  INSERT INTO item_changes (what) VALUES ('access');
  RETURN NULL;
END $$;
--> statement-breakpoint
-- Of what hangs on a version: the item whose current one it is.
CREATE FUNCTION note_items_of_versions() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (id)
  SELECT DISTINCT v.item_id FROM changed_rows c JOIN versions v ON v.id = c.version_id JOIN items i ON i.current_version_id = v.id;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_items_of_previews() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  -- A final is among what items are found by; a draft is only seen.
  INSERT INTO item_changes (what, id)
  SELECT DISTINCT CASE WHEN c.quality = 'final' THEN 'item' ELSE 'chip' END, v.item_id
  FROM changed_rows c JOIN versions v ON v.input_key = c.input_key JOIN items i ON i.current_version_id = v.id;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_changed_words() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what) VALUES ('words');
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_insert_of_items AFTER INSERT ON items REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_items();
--> statement-breakpoint
CREATE TRIGGER note_update_of_items AFTER UPDATE ON items REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_items();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_items AFTER DELETE ON items REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_items();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_pins AFTER INSERT ON pins REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_pins();
--> statement-breakpoint
CREATE TRIGGER note_update_of_pins AFTER UPDATE ON pins REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_pins();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_pins AFTER DELETE ON pins REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_pins();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_facts AFTER INSERT ON facts REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_update_of_facts AFTER UPDATE ON facts REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_facts AFTER DELETE ON facts REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_findings AFTER INSERT ON findings REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_findings AFTER DELETE ON findings REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_own_pictures AFTER INSERT ON own_pictures REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_update_of_own_pictures AFTER UPDATE ON own_pictures REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_previews AFTER INSERT ON previews REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_previews();
--> statement-breakpoint
CREATE TRIGGER note_words_of_categories AFTER INSERT OR UPDATE OR DELETE ON categories
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_words();
--> statement-breakpoint
CREATE TRIGGER note_words_of_category_rules AFTER INSERT OR UPDATE OR DELETE ON category_rules
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_words();
--> statement-breakpoint
CREATE FUNCTION note_changed_access() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what) VALUES ('access');
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_access_of_people AFTER INSERT OR UPDATE OR DELETE ON people
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_access();
--> statement-breakpoint
CREATE TRIGGER note_access_of_libraries AFTER INSERT OR UPDATE OR DELETE ON libraries
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_access();
--> statement-breakpoint
CREATE TRIGGER note_access_of_library_members AFTER INSERT OR UPDATE OR DELETE ON library_members
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_access();
--> statement-breakpoint
CREATE TRIGGER note_access_of_projects AFTER INSERT OR UPDATE OR DELETE ON projects
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_access();
--> statement-breakpoint
CREATE FUNCTION note_changed_rigs() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what) VALUES ('rigs');
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_update_of_previews AFTER UPDATE ON previews REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_previews();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_previews AFTER DELETE ON previews REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_previews();
--> statement-breakpoint
CREATE TRIGGER note_rigs_of_rigs AFTER INSERT OR UPDATE OR DELETE ON rigs
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_rigs();
--> statement-breakpoint
CREATE TRIGGER note_rigs_of_category_rigs AFTER INSERT OR UPDATE OR DELETE ON category_rigs
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_rigs();
