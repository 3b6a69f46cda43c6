CREATE TABLE "mock_up_changes" (
	"mock_up_id" integer NOT NULL,
	"revision" integer NOT NULL,
	"person_id" integer NOT NULL,
	"page" text NOT NULL,
	"change" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "mock_up_changes_mock_up_id_revision_pk" PRIMARY KEY("mock_up_id","revision")
);
--> statement-breakpoint
CREATE TABLE "mock_up_pictures" (
	"id" serial PRIMARY KEY NOT NULL,
	"mock_up_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"scene" jsonb NOT NULL,
	"shot" text NOT NULL,
	"shot_name" text NOT NULL,
	"sky_name" text,
	"quality" text NOT NULL,
	"seed" integer DEFAULT 1 NOT NULL,
	"renderer_revision" integer NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"share" real DEFAULT 0 NOT NULL,
	"error" real,
	"seconds_left" real,
	"hash" text,
	"linear_hash" text,
	"stats" jsonb,
	"message" text,
	"ordered_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "mock_up_versions" (
	"id" serial PRIMARY KEY NOT NULL,
	"mock_up_id" integer NOT NULL,
	"name" text NOT NULL,
	"person_id" integer NOT NULL,
	"scene" jsonb NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "mock_ups" (
	"id" serial PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"project_id" integer,
	"owner_id" integer NOT NULL,
	"library_id" integer NOT NULL,
	"is_shared" boolean DEFAULT false NOT NULL,
	"is_template" boolean DEFAULT false NOT NULL,
	"scene" jsonb NOT NULL,
	"revision" integer DEFAULT 0 NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"removed_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "mock_up_changes" ADD CONSTRAINT "mock_up_changes_mock_up_id_mock_ups_id_fk" FOREIGN KEY ("mock_up_id") REFERENCES "public"."mock_ups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_changes" ADD CONSTRAINT "mock_up_changes_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_pictures" ADD CONSTRAINT "mock_up_pictures_mock_up_id_mock_ups_id_fk" FOREIGN KEY ("mock_up_id") REFERENCES "public"."mock_ups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_pictures" ADD CONSTRAINT "mock_up_pictures_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_pictures" ADD CONSTRAINT "mock_up_pictures_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_pictures" ADD CONSTRAINT "mock_up_pictures_linear_hash_files_hash_fk" FOREIGN KEY ("linear_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_versions" ADD CONSTRAINT "mock_up_versions_mock_up_id_mock_ups_id_fk" FOREIGN KEY ("mock_up_id") REFERENCES "public"."mock_ups"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_up_versions" ADD CONSTRAINT "mock_up_versions_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_ups" ADD CONSTRAINT "mock_ups_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_ups" ADD CONSTRAINT "mock_ups_owner_id_people_id_fk" FOREIGN KEY ("owner_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mock_ups" ADD CONSTRAINT "mock_ups_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "mock_up_pictures_mock_up" ON "mock_up_pictures" USING btree ("mock_up_id","id");--> statement-breakpoint
CREATE INDEX "mock_up_pictures_open" ON "mock_up_pictures" USING btree ("id") WHERE "mock_up_pictures"."state" in ('waiting', 'rendering');--> statement-breakpoint
CREATE INDEX "mock_up_versions_mock_up" ON "mock_up_versions" USING btree ("mock_up_id","id");--> statement-breakpoint
CREATE INDEX "mock_ups_project" ON "mock_ups" USING btree ("project_id");--> statement-breakpoint
CREATE INDEX "mock_ups_owner" ON "mock_ups" USING btree ("owner_id");