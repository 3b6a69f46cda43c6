CREATE TABLE "version_words" (
	"version_id" integer NOT NULL,
	"list" text NOT NULL,
	"position" integer NOT NULL,
	"word" text NOT NULL,
	CONSTRAINT "version_words_version_id_list_position_pk" PRIMARY KEY("version_id","list","position")
);
--> statement-breakpoint
ALTER TABLE "word_lines" ADD COLUMN "is_use" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "version_words" ADD CONSTRAINT "version_words_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "version_words_word" ON "version_words" USING btree ("list","word");--> statement-breakpoint
INSERT INTO version_words (version_id, list, position, word)
SELECT f.version_id, f.name, (row_number() OVER (PARTITION BY f.version_id, f.name ORDER BY w.place) - 1)::int, trim(w.word)
FROM facts f CROSS JOIN LATERAL unnest(string_to_array(f.text, ',')) WITH ORDINALITY AS w(word, place)
WHERE f.name IN ('tags', 'uses') AND trim(w.word) <> '';
--> statement-breakpoint
DELETE FROM facts WHERE name IN ('tags', 'uses');
--> statement-breakpoint
-- After the others. To be asked for by version, in a subquery or a lateral one: a plain join of it would put the lists of all versions together.
CREATE VIEW told_facts AS
SELECT version_id, name, position, number, text, truth FROM facts
UNION ALL
SELECT w.version_id, w.list, CASE w.list WHEN 'tags' THEN 1000 ELSE 1001 END, NULL::float8,
  (SELECT string_agg(o.word, ', ' ORDER BY o.position) FROM version_words o WHERE o.version_id = w.version_id AND o.list = w.list), NULL::boolean
FROM version_words w WHERE w.position = 0;
--> statement-breakpoint
CREATE TRIGGER note_insert_of_version_words AFTER INSERT ON version_words REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_update_of_version_words AFTER UPDATE ON version_words REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_version_words AFTER DELETE ON version_words REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_items_of_versions();
