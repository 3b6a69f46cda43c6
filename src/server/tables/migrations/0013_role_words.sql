CREATE TABLE "role_words" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"maker" text NOT NULL,
	"word" text NOT NULL,
	"role" text NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "role_words" ADD CONSTRAINT "role_words_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "role_words" ADD CONSTRAINT "role_words_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "role_words_word" ON "role_words" USING btree ("library_id","maker","word");