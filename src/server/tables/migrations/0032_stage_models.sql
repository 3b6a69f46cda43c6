CREATE TABLE "material_choices" (
	"project_id" integer NOT NULL,
	"material" text NOT NULL,
	"item_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "material_choices_project_id_material_pk" PRIMARY KEY("project_id","material")
);
--> statement-breakpoint
CREATE TABLE "stage_models" (
	"id" serial PRIMARY KEY NOT NULL,
	"hash" text,
	"project_id" integer,
	"owner_id" integer NOT NULL,
	"library_id" integer NOT NULL,
	"batch_id" integer NOT NULL,
	"name" text NOT NULL,
	"unit" text NOT NULL,
	"up" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"message" text,
	"facts" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "material_choices" ADD CONSTRAINT "material_choices_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "material_choices" ADD CONSTRAINT "material_choices_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "material_choices" ADD CONSTRAINT "material_choices_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stage_models" ADD CONSTRAINT "stage_models_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stage_models" ADD CONSTRAINT "stage_models_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stage_models" ADD CONSTRAINT "stage_models_owner_id_people_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stage_models" ADD CONSTRAINT "stage_models_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "stage_models" ADD CONSTRAINT "stage_models_batch_id_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."batches"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "stage_models_project" ON "stage_models" USING btree ("project_id","id");--> statement-breakpoint
CREATE INDEX "stage_models_hash" ON "stage_models" USING btree ("hash");