CREATE TABLE "place_mappings" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"maker" text NOT NULL,
	"place" text NOT NULL,
	"kind" text NOT NULL,
	"category" "ltree" NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "place" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "tags" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "place_mappings" ADD CONSTRAINT "place_mappings_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "place_mappings" ADD CONSTRAINT "place_mappings_category_categories_path_fk" FOREIGN KEY ("category") REFERENCES "public"."categories"("path") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "place_mappings" ADD CONSTRAINT "place_mappings_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "place_mappings_place" ON "place_mappings" USING btree ("library_id","maker","place","kind");