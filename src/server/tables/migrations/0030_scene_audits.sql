CREATE TABLE "item_prints" (
	"input_key" text PRIMARY KEY NOT NULL,
	"revision" integer NOT NULL,
	"print" "bytea",
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "scene_audits" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"project_id" integer,
	"batch_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"title" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"step" text DEFAULT '' NOT NULL,
	"share" double precision DEFAULT 0 NOT NULL,
	"message" text,
	"result" jsonb,
	"pictures" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"wish" jsonb,
	"correction_state" text,
	"correction_message" text,
	"corrected" jsonb,
	"corrected_hash" text,
	"corrected_size" bigint,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "batches" ADD COLUMN "purpose" text DEFAULT 'delivery' NOT NULL;--> statement-breakpoint
ALTER TABLE "scene_audits" ADD CONSTRAINT "scene_audits_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "scene_audits" ADD CONSTRAINT "scene_audits_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "scene_audits" ADD CONSTRAINT "scene_audits_batch_id_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."batches"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "scene_audits" ADD CONSTRAINT "scene_audits_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "scene_audits" ADD CONSTRAINT "scene_audits_corrected_hash_files_hash_fk" FOREIGN KEY ("corrected_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "scene_audits_project" ON "scene_audits" USING btree ("project_id","id");