CREATE TABLE "feed_takes" (
	"id" serial PRIMARY KEY NOT NULL,
	"feed_id" integer NOT NULL,
	"offer_id" text NOT NULL,
	"version" integer NOT NULL,
	"batch_id" integer NOT NULL,
	"files" jsonb NOT NULL,
	"taken_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "feeds" (
	"id" serial PRIMARY KEY NOT NULL,
	"library_id" integer NOT NULL,
	"url" text NOT NULL,
	"title" text NOT NULL,
	"person_id" integer NOT NULL,
	"offer" jsonb,
	"read_at" timestamp with time zone,
	"problem" text,
	"removed_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "batches" ADD COLUMN "expected_files" integer;--> statement-breakpoint
ALTER TABLE "feed_takes" ADD CONSTRAINT "feed_takes_feed_id_feeds_id_fk" FOREIGN KEY ("feed_id") REFERENCES "public"."feeds"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feed_takes" ADD CONSTRAINT "feed_takes_batch_id_batches_id_fk" FOREIGN KEY ("batch_id") REFERENCES "public"."batches"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feeds" ADD CONSTRAINT "feeds_library_id_libraries_id_fk" FOREIGN KEY ("library_id") REFERENCES "public"."libraries"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feeds" ADD CONSTRAINT "feeds_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "feed_takes_feed" ON "feed_takes" USING btree ("feed_id","offer_id");--> statement-breakpoint
CREATE INDEX "feed_takes_batch" ON "feed_takes" USING btree ("batch_id");