CREATE TABLE "category_rigs" (
	"category" text PRIMARY KEY NOT NULL,
	"rig" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "item_looks" (
	"item_id" integer PRIMARY KEY NOT NULL,
	"looks" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rerender_items" (
	"rerender_id" integer NOT NULL,
	"position" integer NOT NULL,
	"input_key" text NOT NULL,
	"rig" text NOT NULL,
	"revision" integer NOT NULL,
	"quality" text NOT NULL,
	"state" text NOT NULL,
	CONSTRAINT "rerender_items_rerender_id_position_pk" PRIMARY KEY("rerender_id","position")
);
--> statement-breakpoint
CREATE TABLE "rerenders" (
	"id" serial PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"state" text NOT NULL,
	"person_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rig_proposals" (
	"id" serial PRIMARY KEY NOT NULL,
	"rig" text NOT NULL,
	"revision" integer NOT NULL,
	"category" text,
	"state" text NOT NULL,
	"person_id" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rigs" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"revision" integer NOT NULL,
	"data" jsonb NOT NULL,
	"state" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "converged_share" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "firefly_share" double precision DEFAULT 0 NOT NULL;--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "backdrop_albedo" double precision;--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "contrast" double precision;--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "coverage" double precision;--> statement-breakpoint
ALTER TABLE "previews" ADD COLUMN "linear_hash" text;--> statement-breakpoint
ALTER TABLE "item_looks" ADD CONSTRAINT "item_looks_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rerender_items" ADD CONSTRAINT "rerender_items_rerender_id_rerenders_id_fk" FOREIGN KEY ("rerender_id") REFERENCES "public"."rerenders"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rerenders" ADD CONSTRAINT "rerenders_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rig_proposals" ADD CONSTRAINT "rig_proposals_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "rerender_items_state" ON "rerender_items" USING btree ("rerender_id","state","position");--> statement-breakpoint
CREATE UNIQUE INDEX "rigs_name_revision" ON "rigs" USING btree ("name","revision");--> statement-breakpoint
ALTER TABLE "previews" ADD CONSTRAINT "previews_linear_hash_files_hash_fk" FOREIGN KEY ("linear_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;