CREATE TABLE "bulk_items" (
	"run_id" integer NOT NULL,
	"place" integer NOT NULL,
	"item_id" integer NOT NULL,
	"wanted" text,
	"before" text,
	"noted_at" timestamp with time zone,
	"outcome" text,
	"code" text,
	"reason" text,
	CONSTRAINT "bulk_items_run_id_place_pk" PRIMARY KEY("run_id","place")
);
--> statement-breakpoint
CREATE TABLE "bulk_runs" (
	"id" serial PRIMARY KEY NOT NULL,
	"person_id" integer NOT NULL,
	"action" jsonb NOT NULL,
	"state" text DEFAULT 'running' NOT NULL,
	"total" integer NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"changed" integer DEFAULT 0 NOT NULL,
	"refused" integer DEFAULT 0 NOT NULL,
	"undoes_id" integer,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "bulk_items" ADD CONSTRAINT "bulk_items_run_id_bulk_runs_id_fk" FOREIGN KEY ("run_id") REFERENCES "public"."bulk_runs"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bulk_runs" ADD CONSTRAINT "bulk_runs_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "bulk_runs" ADD CONSTRAINT "bulk_runs_undoes_id_bulk_runs_id_fk" FOREIGN KEY ("undoes_id") REFERENCES "public"."bulk_runs"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "bulk_items_left" ON "bulk_items" USING btree ("run_id","place") WHERE "bulk_items"."outcome" is null;