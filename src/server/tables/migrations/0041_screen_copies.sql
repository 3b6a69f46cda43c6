CREATE TABLE "screen_copies" (
	"source_hash" text NOT NULL,
	"longer_px" integer NOT NULL,
	"hash" text NOT NULL,
	CONSTRAINT "screen_copies_source_hash_longer_px_pk" PRIMARY KEY("source_hash","longer_px")
);
--> statement-breakpoint
ALTER TABLE "screen_copies" ADD CONSTRAINT "screen_copies_source_hash_files_hash_fk" FOREIGN KEY ("source_hash") REFERENCES "public"."files"("hash") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "screen_copies" ADD CONSTRAINT "screen_copies_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "screen_copies_hash" ON "screen_copies" USING btree ("hash");