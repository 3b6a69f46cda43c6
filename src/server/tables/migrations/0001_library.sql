CREATE TABLE "batch_files" (
	"id" serial PRIMARY KEY NOT NULL,
	"batch_id" integer NOT NULL,
	"path" text NOT NULL,
	"hash" text,
	"size" bigint NOT NULL,
	"outcome" text DEFAULT 'received' NOT NULL,
	"code" text,
	"message" text
);
--> statement-breakpoint
CREATE TABLE "batch_items" (
	"id" serial PRIMARY KEY NOT NULL,
	"batch_id" integer NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"category" "ltree" NOT NULL,
	"category_confidence" real NOT NULL,
	"width_mm" double precision,
	"constants" jsonb NOT NULL,
	"files" jsonb NOT NULL,
	"input_key" text NOT NULL,
	"state" text DEFAULT 'measuring' NOT NULL,
	"message" text,
	"facts" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"findings" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"item_id" integer
);
--> statement-breakpoint
CREATE TABLE "batches" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"title" text NOT NULL,
	"maker" text DEFAULT '' NOT NULL,
	"licence" text DEFAULT '' NOT NULL,
	"state" text DEFAULT 'receiving' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "categories" (
	"path" "ltree" PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"kind" text NOT NULL,
	"prefix" text NOT NULL,
	"position" integer NOT NULL,
	"last_number" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "categories_prefix_unique" UNIQUE("prefix")
);
--> statement-breakpoint
CREATE TABLE "events" (
	"id" serial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"person_id" integer,
	"subject" text NOT NULL,
	"subject_id" integer NOT NULL,
	"verb" text NOT NULL,
	"before" jsonb,
	"after" jsonb
);
--> statement-breakpoint
CREATE TABLE "facts" (
	"version_id" integer NOT NULL,
	"name" text NOT NULL,
	"position" integer NOT NULL,
	"number" double precision,
	"text" text,
	"truth" boolean,
	CONSTRAINT "facts_version_id_name_pk" PRIMARY KEY("version_id","name")
);
--> statement-breakpoint
CREATE TABLE "files" (
	"hash" text PRIMARY KEY NOT NULL,
	"size" bigint NOT NULL,
	"media_type" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "findings" (
	"id" serial PRIMARY KEY NOT NULL,
	"version_id" integer NOT NULL,
	"code" text NOT NULL,
	"severity" text NOT NULL,
	"subject" text,
	"evidence" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "item_counts" (
	"library_id" integer NOT NULL,
	"category" "ltree" NOT NULL,
	"kind" text NOT NULL,
	"state" text NOT NULL,
	"count" integer NOT NULL,
	CONSTRAINT "item_counts_library_id_category_kind_state_pk" PRIMARY KEY("library_id","category","kind","state")
);
--> statement-breakpoint
CREATE TABLE "items" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"category" "ltree" NOT NULL,
	"kind" text NOT NULL,
	"code" text NOT NULL,
	"name" text NOT NULL,
	"state" text DEFAULT 'draft' NOT NULL,
	"current_version_id" integer,
	"approved_version_id" integer,
	"document" "tsvector" DEFAULT ''::tsvector NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "items_code_unique" UNIQUE("code")
);
--> statement-breakpoint
CREATE TABLE "prefix_counts" (
	"prefix" text NOT NULL,
	"library_id" integer NOT NULL,
	"category" "ltree" NOT NULL,
	"kind" text NOT NULL,
	"state" text NOT NULL,
	"count" integer NOT NULL,
	CONSTRAINT "prefix_counts_prefix_library_id_category_kind_state_pk" PRIMARY KEY("prefix","library_id","category","kind","state")
);
--> statement-breakpoint
CREATE TABLE "previews" (
	"id" serial PRIMARY KEY NOT NULL,
	"input_key" text NOT NULL,
	"rig" text NOT NULL,
	"rig_revision" integer NOT NULL,
	"renderer_revision" integer NOT NULL,
	"quality" text NOT NULL,
	"seed" integer NOT NULL,
	"hash" text NOT NULL,
	"width" integer NOT NULL,
	"height" integer NOT NULL,
	"samples" bigint NOT NULL,
	"achieved_error" double precision NOT NULL,
	"seconds" double precision NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "version_files" (
	"version_id" integer NOT NULL,
	"position" integer NOT NULL,
	"role" text NOT NULL,
	"path" text NOT NULL,
	"hash" text NOT NULL,
	"by_content_only" boolean DEFAULT false NOT NULL,
	"handedness_hint" text,
	CONSTRAINT "version_files_version_id_position_pk" PRIMARY KEY("version_id","position")
);
--> statement-breakpoint
CREATE TABLE "versions" (
	"id" serial PRIMARY KEY NOT NULL,
	"item_id" integer NOT NULL,
	"number" integer NOT NULL,
	"author_id" integer NOT NULL,
	"note" text DEFAULT '' NOT NULL,
	"width_mm" double precision,
	"constants" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"input_key" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "libraries" (
	"id" serial PRIMARY KEY NOT NULL,
	"key" text NOT NULL,
	"title" text NOT NULL,
	"kind" text NOT NULL,
	CONSTRAINT "libraries_key_unique" UNIQUE("key")
);
--> statement-breakpoint
CREATE TABLE "library_members" (
	"library_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	CONSTRAINT "library_members_library_id_person_id_pk" PRIMARY KEY("library_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" serial PRIMARY KEY NOT NULL,
	"email" text NOT NULL,
	"name" text NOT NULL,
	"role" text NOT NULL,
	"password_hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "people_email_unique" UNIQUE("email")
);
--> statement-breakpoint
CREATE TABLE "deliveries" (
	"id" serial PRIMARY KEY NOT NULL,
	"project_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"request" jsonb NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"total" integer NOT NULL,
	"hash" text,
	"size" bigint,
	"message" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pins" (
	"project_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"version_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "pins_project_id_item_id_pk" PRIMARY KEY("project_id","item_id")
);
--> statement-breakpoint
CREATE TABLE "projects" (
	"id" serial PRIMARY KEY NOT NULL,
	"code" text NOT NULL,
	"title" text NOT NULL,
	"library_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "projects_code_unique" UNIQUE("code")
);
--> statement-breakpoint
ALTER TABLE "batch_files" ADD CONSTRAINT "batch_files_batch_id_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."batches"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batch_files" ADD CONSTRAINT "batch_files_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batch_items" ADD CONSTRAINT "batch_items_batch_id_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."batches"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batch_items" ADD CONSTRAINT "batch_items_category_categories_path_fk" FOREIGN KEY ("category") REFERENCES "public"."categories"("path") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batch_items" ADD CONSTRAINT "batch_items_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batches" ADD CONSTRAINT "batches_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "batches" ADD CONSTRAINT "batches_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "events" ADD CONSTRAINT "events_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "facts" ADD CONSTRAINT "facts_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "findings" ADD CONSTRAINT "findings_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "items" ADD CONSTRAINT "items_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "items" ADD CONSTRAINT "items_category_categories_path_fk" FOREIGN KEY ("category") REFERENCES "public"."categories"("path") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "items" ADD CONSTRAINT "items_current_version_id_versions_id_fk" FOREIGN KEY ("current_version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "items" ADD CONSTRAINT "items_approved_version_id_versions_id_fk" FOREIGN KEY ("approved_version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "previews" ADD CONSTRAINT "previews_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_files" ADD CONSTRAINT "version_files_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "version_files" ADD CONSTRAINT "version_files_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "versions" ADD CONSTRAINT "versions_author_id_people_id_fk" FOREIGN KEY ("author_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "library_members" ADD CONSTRAINT "library_members_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "library_members" ADD CONSTRAINT "library_members_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "deliveries" ADD CONSTRAINT "deliveries_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pins" ADD CONSTRAINT "pins_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "projects" ADD CONSTRAINT "projects_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "batch_files_path" ON "batch_files" USING btree ("batch_id","path");--> statement-breakpoint
CREATE INDEX "batch_items_batch" ON "batch_items" USING btree ("batch_id","id");--> statement-breakpoint
CREATE INDEX "events_subject" ON "events" USING btree ("subject","subject_id","id");--> statement-breakpoint
CREATE INDEX "facts_number" ON "facts" USING btree ("name","number");--> statement-breakpoint
CREATE INDEX "facts_text" ON "facts" USING btree ("name","text");--> statement-breakpoint
CREATE INDEX "findings_version" ON "findings" USING btree ("version_id");--> statement-breakpoint
CREATE INDEX "findings_code" ON "findings" USING btree ("code");--> statement-breakpoint
CREATE INDEX "items_document" ON "items" USING gin ("document");--> statement-breakpoint
CREATE INDEX "items_category" ON "items" USING gist ("category");--> statement-breakpoint
CREATE INDEX "items_order" ON "items" USING btree ("library_id","code");--> statement-breakpoint
CREATE UNIQUE INDEX "previews_key" ON "previews" USING btree ("input_key","rig","rig_revision","renderer_revision","quality","seed");--> statement-breakpoint
CREATE INDEX "version_files_hash" ON "version_files" USING btree ("hash");--> statement-breakpoint
CREATE UNIQUE INDEX "versions_number" ON "versions" USING btree ("item_id","number");--> statement-breakpoint
CREATE INDEX "versions_input" ON "versions" USING btree ("input_key");--> statement-breakpoint
CREATE INDEX "deliveries_project" ON "deliveries" USING btree ("project_id","id");