CREATE TABLE "word_lines" (
	"id" serial PRIMARY KEY NOT NULL,
	"replaces" text,
	"words" text[] NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "word_lines_replaces_unique" UNIQUE("replaces")
);
--> statement-breakpoint
ALTER TABLE "word_lines" ADD CONSTRAINT "word_lines_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE TRIGGER note_change_of_word_lines AFTER INSERT OR UPDATE OR DELETE ON word_lines
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_words();
