CREATE TABLE "own_pictures" (
	"id" serial PRIMARY KEY NOT NULL,
	"version_id" integer NOT NULL,
	"file_name" text NOT NULL,
	"source_hash" text NOT NULL,
	"state" text NOT NULL,
	"reason" text,
	"hash" text,
	"width" integer,
	"height" integer,
	"original_width" integer,
	"original_height" integer,
	"score" integer,
	"faults" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"person_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"dropped_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "own_pictures" ADD CONSTRAINT "own_pictures_version_id_versions_id_fk" FOREIGN KEY ("version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_pictures" ADD CONSTRAINT "own_pictures_source_hash_files_hash_fk" FOREIGN KEY ("source_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_pictures" ADD CONSTRAINT "own_pictures_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "own_pictures" ADD CONSTRAINT "own_pictures_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "own_pictures_version" ON "own_pictures" USING btree ("version_id");