ALTER TABLE "batch_items" ADD COLUMN "source_files" jsonb;--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "fixes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "applied_fixes" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "findings" ADD COLUMN "before_hash" text;--> statement-breakpoint
ALTER TABLE "findings" ADD COLUMN "after_hash" text;--> statement-breakpoint
ALTER TABLE "findings" ADD CONSTRAINT "findings_before_hash_files_hash_fk" FOREIGN KEY ("before_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "findings" ADD CONSTRAINT "findings_after_hash_files_hash_fk" FOREIGN KEY ("after_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;