-- Names: what goes out is an export; a supplier's own folder is a source folder; a view of a sheet is a view.
ALTER TABLE "deliveries" RENAME TO "exports";--> statement-breakpoint
ALTER SEQUENCE "deliveries_id_seq" RENAME TO "exports_id_seq";--> statement-breakpoint
ALTER INDEX "deliveries_pkey" RENAME TO "exports_pkey";--> statement-breakpoint
ALTER INDEX "deliveries_project" RENAME TO "exports_project";--> statement-breakpoint
ALTER TABLE "exports" RENAME CONSTRAINT "deliveries_project_id_projects_id_fk" TO "exports_project_id_projects_id_fk";--> statement-breakpoint
ALTER TABLE "exports" RENAME CONSTRAINT "deliveries_person_id_people_id_fk" TO "exports_person_id_people_id_fk";--> statement-breakpoint
ALTER TABLE "exports" RENAME CONSTRAINT "deliveries_hash_files_hash_fk" TO "exports_hash_files_hash_fk";--> statement-breakpoint
ALTER TABLE "place_mappings" RENAME TO "source_folder_mappings";--> statement-breakpoint
ALTER SEQUENCE "place_mappings_id_seq" RENAME TO "source_folder_mappings_id_seq";--> statement-breakpoint
ALTER INDEX "place_mappings_pkey" RENAME TO "source_folder_mappings_pkey";--> statement-breakpoint
ALTER INDEX "place_mappings_place" RENAME TO "source_folder_mappings_folder";--> statement-breakpoint
ALTER TABLE "source_folder_mappings" RENAME CONSTRAINT "place_mappings_library_id_libraries_id_fk" TO "source_folder_mappings_library_id_libraries_id_fk";--> statement-breakpoint
ALTER TABLE "source_folder_mappings" RENAME CONSTRAINT "place_mappings_category_categories_path_fk" TO "source_folder_mappings_category_categories_path_fk";--> statement-breakpoint
ALTER TABLE "source_folder_mappings" RENAME CONSTRAINT "place_mappings_person_id_people_id_fk" TO "source_folder_mappings_person_id_people_id_fk";--> statement-breakpoint
ALTER TABLE "source_folder_mappings" RENAME COLUMN "place" TO "source_folder";--> statement-breakpoint
ALTER TABLE "batch_items" RENAME COLUMN "place" TO "source_folder";--> statement-breakpoint
ALTER TABLE "item_looks" RENAME TO "item_views";--> statement-breakpoint
ALTER TABLE "item_views" RENAME COLUMN "looks" TO "views";--> statement-breakpoint
ALTER INDEX "item_looks_pkey" RENAME TO "item_views_pkey";--> statement-breakpoint
ALTER TABLE "item_views" RENAME CONSTRAINT "item_looks_item_id_items_id_fk" TO "item_views_item_id_items_id_fk";--> statement-breakpoint
ALTER TABLE "fingerprints" RENAME COLUMN "look" TO "perceptual_hash";--> statement-breakpoint
-- What was noted under the old names.
UPDATE "batch_items" SET "state" = 'accepted' WHERE "state" = 'filed';--> statement-breakpoint
UPDATE "batch_items" SET
	"fixes" = replace("fixes"::text, '"dressPart"', '"assignMaterial"')::jsonb,
	"applied_fixes" = replace("applied_fixes"::text, '"dressPart"', '"assignMaterial"')::jsonb
WHERE "fixes"::text LIKE '%"dressPart"%' OR "applied_fixes"::text LIKE '%"dressPart"%';--> statement-breakpoint
UPDATE "events" SET "before" =
	replace(replace(replace("before"::text, '"place":', '"sourceFolder":'), '"state": "filed"', '"state": "accepted"'), '"dressPart"', '"assignMaterial"')::jsonb
WHERE "verb" = 'regrouped';--> statement-breakpoint
UPDATE "events" SET "verb" = v."now"
FROM (VALUES ('filed', 'accepted'), ('unfiled', 'takenBack'), ('mended', 'fixed'), ('notMended', 'notFixed'), ('unmended', 'unfixed'), ('ordered delivery', 'exportOrdered')) v("was", "now")
WHERE "events"."verb" = v."was";--> statement-breakpoint
-- Exports know what was pinned when they were ordered.
ALTER TABLE "exports" ADD COLUMN "pins" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
UPDATE "exports" e SET "pins" = coalesce(
	(SELECT jsonb_agg(jsonb_build_object('itemId', p."item_id", 'versionId', p."version_id")) FROM "pins" p WHERE p."project_id" = e."project_id"), '[]'::jsonb)
WHERE "state" IN ('waiting', 'writing');--> statement-breakpoint
-- A measuring that began before a change of its row begins again.
ALTER TABLE "batch_items" ADD COLUMN "revision" integer DEFAULT 0 NOT NULL;--> statement-breakpoint
CREATE FUNCTION "count_batch_item_revision"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF (OLD."kind", OLD."name", OLD."category", OLD."width_mm", OLD."tiling", OLD."constants", OLD."files", OLD."source_files", OLD."fixes", OLD."given_facts")
		IS DISTINCT FROM
		(NEW."kind", NEW."name", NEW."category", NEW."width_mm", NEW."tiling", NEW."constants", NEW."files", NEW."source_files", NEW."fixes", NEW."given_facts")
	THEN NEW."revision" := OLD."revision" + 1;
	END IF;
	RETURN NEW;
END $$;--> statement-breakpoint
CREATE TRIGGER "batch_items_revision" BEFORE UPDATE ON "batch_items" FOR EACH ROW EXECUTE FUNCTION "count_batch_item_revision"();--> statement-breakpoint
ALTER TABLE "batches" ADD COLUMN "message" text;--> statement-breakpoint
-- Bytes that nobody names are collected some time after somebody last brought them.
ALTER TABLE "files" ADD COLUMN "last_put_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
-- Who works on what, and what was given up.
CREATE TABLE "workers" (
	"id" serial PRIMARY KEY NOT NULL,
	"started_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "running_jobs" (
	"queue" text NOT NULL,
	"job_id" uuid NOT NULL,
	"worker_id" integer NOT NULL,
	CONSTRAINT "running_jobs_queue_job_id_pk" PRIMARY KEY("queue","job_id")
);
--> statement-breakpoint
CREATE INDEX "running_jobs_worker" ON "running_jobs" USING btree ("worker_id");--> statement-breakpoint
CREATE TABLE "failed_jobs" (
	"id" serial PRIMARY KEY NOT NULL,
	"queue" text NOT NULL,
	"job" jsonb NOT NULL,
	"library_id" integer,
	"about" text NOT NULL,
	"address" text,
	"reason" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "failed_jobs" ADD CONSTRAINT "failed_jobs_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "failed_jobs_library" ON "failed_jobs" USING btree ("library_id");--> statement-breakpoint
CREATE INDEX "batch_items_input" ON "batch_items" USING btree ("input_key");--> statement-breakpoint
-- What a chip shows of its facts stands with the version: a wall of chips is read with every page.
ALTER TABLE "versions" ADD COLUMN "key_facts" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
UPDATE "versions" v SET "key_facts" = coalesce((
	SELECT jsonb_object_agg(f."name", coalesce(to_jsonb(f."number"), to_jsonb(f."text"), to_jsonb(f."truth")))
	FROM "facts" f
	WHERE f."version_id" = v."id"
		AND f."name" IN ('widthMm', 'widthM', 'heightM', 'depthM', 'setting', 'sky', 'sunElevationDeg', 'sunPresent', 'dynamicRangeStops')), '{}');
