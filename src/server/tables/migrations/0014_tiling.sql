ALTER TABLE "batch_items" ADD COLUMN "tiling" text DEFAULT 'repeat' NOT NULL;--> statement-breakpoint
ALTER TABLE "versions" ADD COLUMN "tiling" text DEFAULT 'repeat' NOT NULL;