ALTER TABLE "categories" ADD COLUMN "retired_into" "ltree";--> statement-breakpoint
UPDATE "categories" SET "position" = "position" * 1000;
