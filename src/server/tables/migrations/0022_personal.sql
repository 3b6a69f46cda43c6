CREATE TABLE "dot_meanings" (
	"person_id" integer NOT NULL,
	"color" smallint NOT NULL,
	"meaning" text NOT NULL,
	CONSTRAINT "dot_meanings_person_id_color_pk" PRIMARY KEY("person_id","color")
);
--> statement-breakpoint
CREATE TABLE "dots" (
	"person_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"color" smallint NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "dots_person_id_item_id_color_pk" PRIMARY KEY("person_id","item_id","color")
);
--> statement-breakpoint
CREATE TABLE "looked_at" (
	"person_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "looked_at_person_id_item_id_pk" PRIMARY KEY("person_id","item_id")
);
--> statement-breakpoint
CREATE TABLE "saved_views" (
	"id" serial PRIMARY KEY NOT NULL,
	"person_id" integer NOT NULL,
	"title" text NOT NULL,
	"address" text NOT NULL,
	"is_shared" boolean DEFAULT false NOT NULL,
	"library_ids" integer[] DEFAULT '{}' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trays" (
	"id" serial PRIMARY KEY NOT NULL,
	"person_id" integer NOT NULL,
	"title" text NOT NULL,
	"item_ids" integer[] DEFAULT '{}' NOT NULL,
	"from_id" integer,
	"note" text DEFAULT '' NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "views_seen" (
	"view_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "views_seen_view_id_person_id_pk" PRIMARY KEY("view_id","person_id")
);
--> statement-breakpoint
ALTER TABLE "dot_meanings" ADD CONSTRAINT "dot_meanings_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dots" ADD CONSTRAINT "dots_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "dots" ADD CONSTRAINT "dots_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "looked_at" ADD CONSTRAINT "looked_at_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "looked_at" ADD CONSTRAINT "looked_at_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "saved_views" ADD CONSTRAINT "saved_views_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trays" ADD CONSTRAINT "trays_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trays" ADD CONSTRAINT "trays_from_id_people_id_fk" FOREIGN KEY ("from_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "views_seen" ADD CONSTRAINT "views_seen_view_id_saved_views_id_fk" FOREIGN KEY ("view_id") REFERENCES "public"."saved_views"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "views_seen" ADD CONSTRAINT "views_seen_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "looked_at_person" ON "looked_at" USING btree ("person_id","at");--> statement-breakpoint
CREATE INDEX "saved_views_person" ON "saved_views" USING btree ("person_id");--> statement-breakpoint
CREATE INDEX "trays_person" ON "trays" USING btree ("person_id");
--> statement-breakpoint
CREATE FUNCTION note_changed_person() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what, id) SELECT DISTINCT 'person', person_id FROM changed_rows;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_insert_of_dots AFTER INSERT ON dots REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_update_of_dots AFTER UPDATE ON dots REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_dots AFTER DELETE ON dots REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_insert_of_looked_at AFTER INSERT ON looked_at REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_update_of_looked_at AFTER UPDATE ON looked_at REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_looked_at AFTER DELETE ON looked_at REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
