CREATE TABLE "fingerprints" (
	"file_hash" text PRIMARY KEY NOT NULL,
	"content" text NOT NULL,
	"look" bit(64)
);
--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "conflict" jsonb;--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "decision" text;--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "previous_version_id" integer;--> statement-breakpoint
ALTER TABLE "fingerprints" ADD CONSTRAINT "fingerprints_file_hash_files_hash_fk" FOREIGN KEY ("file_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "fingerprints_content" ON "fingerprints" USING btree ("content");--> statement-breakpoint
ALTER TABLE "batch_items" ADD CONSTRAINT "batch_items_previous_version_id_versions_id_fk" FOREIGN KEY ("previous_version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;