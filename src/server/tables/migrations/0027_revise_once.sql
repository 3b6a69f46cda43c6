CREATE TABLE "pin_decisions" (
	"project_id" integer NOT NULL,
	"item_id" integer NOT NULL,
	"kind" text NOT NULL,
	"asked_version_id" integer NOT NULL,
	"was_withdrawn" boolean DEFAULT false NOT NULL,
	"from_version_id" integer NOT NULL,
	"replaced_by_id" integer,
	"until" date,
	"why" text DEFAULT '' NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "pin_decisions_project_id_item_id_pk" PRIMARY KEY("project_id","item_id")
);
--> statement-breakpoint
CREATE TABLE "project_people" (
	"project_id" integer NOT NULL,
	"person_id" integer NOT NULL,
	CONSTRAINT "project_people_project_id_person_id_pk" PRIMARY KEY("project_id","person_id")
);
--> statement-breakpoint
CREATE TABLE "version_differences" (
	"before_key" text NOT NULL,
	"after_key" text NOT NULL,
	"rig" text NOT NULL,
	"rig_revision" integer NOT NULL,
	"pictures" jsonb,
	"parts_before" text[] DEFAULT '{}' NOT NULL,
	"parts_after" text[] DEFAULT '{}' NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "version_differences_before_key_after_key_rig_rig_revision_pk" PRIMARY KEY("before_key","after_key","rig","rig_revision")
);
--> statement-breakpoint
ALTER TABLE "projects" ADD COLUMN "phase" text DEFAULT 'open' NOT NULL;--> statement-breakpoint
ALTER TABLE "projects" ADD COLUMN "notes" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "projects" ADD COLUMN "own_form" jsonb;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_item_id_items_id_fk" FOREIGN KEY ("item_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_asked_version_id_versions_id_fk" FOREIGN KEY ("asked_version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_from_version_id_versions_id_fk" FOREIGN KEY ("from_version_id") REFERENCES "public"."versions"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_replaced_by_id_items_id_fk" FOREIGN KEY ("replaced_by_id") REFERENCES "public"."items"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pin_decisions" ADD CONSTRAINT "pin_decisions_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "project_people" ADD CONSTRAINT "project_people_project_id_projects_id_fk" FOREIGN KEY ("project_id") REFERENCES "public"."projects"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "project_people" ADD CONSTRAINT "project_people_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;