CREATE TABLE "licences" (
	"wording" text PRIMARY KEY NOT NULL,
	"reach" text NOT NULL,
	"project_ids" integer[] DEFAULT '{}' NOT NULL,
	"until" date,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "profiles" (
	"id" serial PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"profile" jsonb NOT NULL,
	"is_house" boolean DEFAULT false NOT NULL,
	"person_id" integer,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "profiles_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "exports" ADD COLUMN "label" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "projects" ADD COLUMN "profile_id" integer;--> statement-breakpoint
ALTER TABLE "licences" ADD CONSTRAINT "licences_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "profiles" ADD CONSTRAINT "profiles_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "profiles_house" ON "profiles" USING btree ("is_house") WHERE "profiles"."is_house";--> statement-breakpoint
ALTER TABLE "projects" ADD CONSTRAINT "projects_profile_id_profiles_id_fk" FOREIGN KEY ("profile_id") REFERENCES "public"."profiles"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
INSERT INTO "profiles" ("name", "profile", "is_house") VALUES ('As kept', '{}', true);
