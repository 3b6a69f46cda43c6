CREATE TABLE "desk_items" (
	"desk_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"version" integer NOT NULL,
	"is_whole" boolean NOT NULL,
	CONSTRAINT "desk_items_desk_id_item_id_pk" PRIMARY KEY("desk_id","item_id")
);
--> statement-breakpoint
CREATE TABLE "desks" (
	"id" serial PRIMARY KEY NOT NULL,
	"person_id" integer NOT NULL,
	"name" text NOT NULL,
	"reported_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "desk_items" ADD CONSTRAINT "desk_items_desk_id_desks_id_fk" FOREIGN KEY ("desk_id") REFERENCES "public"."desks"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desk_items" ADD CONSTRAINT "desk_items_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "desks" ADD CONSTRAINT "desks_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "desk_items_item" ON "desk_items" USING btree ("item_id");--> statement-breakpoint
CREATE UNIQUE INDEX "desks_name" ON "desks" USING btree ("person_id","name");--> statement-breakpoint
CREATE FUNCTION note_person_of_desks() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what, id) SELECT DISTINCT 'person', d.person_id FROM changed_rows c JOIN desks d ON d.id = c.desk_id;
  RETURN NULL;
END $$;
--> statement-breakpoint
-- A newer version that is approved makes what lies on a desk an older one.
CREATE FUNCTION note_desks_of_items() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  INSERT INTO item_changes (what, id)
  SELECT DISTINCT 'person', d.person_id FROM changed_rows c JOIN desk_items i ON i.item_id = c.id JOIN desks d ON d.id = i.desk_id;
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_insert_of_desk_items AFTER INSERT ON desk_items REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_person_of_desks();
--> statement-breakpoint
CREATE TRIGGER note_update_of_desk_items AFTER UPDATE ON desk_items REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_person_of_desks();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_desk_items AFTER DELETE ON desk_items REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_person_of_desks();
--> statement-breakpoint
CREATE TRIGGER note_delete_of_desks AFTER DELETE ON desks REFERENCING OLD TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_changed_person();
--> statement-breakpoint
CREATE TRIGGER note_update_of_items_on_desks AFTER UPDATE ON items REFERENCING NEW TABLE AS changed_rows
  FOR EACH STATEMENT EXECUTE FUNCTION note_desks_of_items();
