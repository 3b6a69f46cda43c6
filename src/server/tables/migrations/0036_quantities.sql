CREATE TABLE "pin_quantities" (
	"project_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"amount" double precision NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "pin_quantities_project_id_item_id_pk" PRIMARY KEY("project_id","item_id")
);
--> statement-breakpoint
ALTER TABLE "pin_quantities" ADD CONSTRAINT "pin_quantities_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_quantities" ADD CONSTRAINT "pin_quantities_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_quantities" ADD CONSTRAINT "pin_quantities_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;