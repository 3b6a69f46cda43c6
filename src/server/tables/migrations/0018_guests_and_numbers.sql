CREATE TABLE "code_numbers" (
	"library_id" integer NOT NULL,
	"prefix" text NOT NULL,
	"last" integer NOT NULL,
	CONSTRAINT "code_numbers_library_id_prefix_pk" PRIMARY KEY("library_id","prefix")
);
--> statement-breakpoint
CREATE TABLE "former_codes" (
	"code" text PRIMARY KEY NOT NULL,
	"item_id" integer NOT NULL,
	"library_id" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "project_guests" (
	"project_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	CONSTRAINT "project_guests_project_id_person_id_pk" PRIMARY KEY("project_id","person_id")
);
--> statement-breakpoint
ALTER TABLE "items" ADD COLUMN "copied_from_id" integer;--> statement-breakpoint
ALTER TABLE "libraries" ADD COLUMN "mark" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "outside_subject" text;--> statement-breakpoint
ALTER TABLE "code_numbers" ADD CONSTRAINT "code_numbers_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "former_codes" ADD CONSTRAINT "former_codes_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "former_codes" ADD CONSTRAINT "former_codes_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "project_guests" ADD CONSTRAINT "project_guests_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "project_guests" ADD CONSTRAINT "project_guests_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "former_codes_item" ON "former_codes" USING btree ("item_id");--> statement-breakpoint
CREATE INDEX "project_guests_person" ON "project_guests" USING btree ("person_id");--> statement-breakpoint
ALTER TABLE "items" ADD CONSTRAINT "items_copied_from_id_versions_id_fk" FOREIGN KEY ("copied_from_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
-- What a client's library holds keeps its codes; what comes now has the library's mark and numbers of its own.
UPDATE "libraries" l SET "mark" = m.mark FROM (
  SELECT id, stem || CASE WHEN row_number() OVER (PARTITION BY stem ORDER BY id) = 1 THEN '' ELSE (row_number() OVER (PARTITION BY stem ORDER BY id))::text END AS mark
  FROM (SELECT id, upper(left(replace(key, '-', ''), 3)) AS stem FROM "libraries" WHERE kind = 'client') s
) m WHERE m.id = l.id;
--> statement-breakpoint
INSERT INTO "code_numbers" ("library_id", "prefix", "last")
SELECT l.id, c.prefix, c.last_number FROM "categories" c CROSS JOIN "libraries" l WHERE l.kind = 'house' AND c.last_number > 0;
--> statement-breakpoint
ALTER TABLE "categories" DROP COLUMN "last_number";--> statement-breakpoint
ALTER TABLE "people" ADD CONSTRAINT "people_outside_subject_unique" UNIQUE("outside_subject");