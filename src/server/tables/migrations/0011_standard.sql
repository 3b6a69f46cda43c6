CREATE TABLE "category_rules" (
	"category" "ltree" PRIMARY KEY NOT NULL,
	"rules" jsonb NOT NULL,
	"person_id" integer NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "batch_items" ADD COLUMN "given_facts" jsonb DEFAULT '{}'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "category_rules" ADD CONSTRAINT "category_rules_category_categories_path_fk" FOREIGN KEY ("category") REFERENCES "public"."categories"("path") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "category_rules" ADD CONSTRAINT "category_rules_person_id_people_id_fk" FOREIGN KEY ("person_id") REFERENCES "public"."people"("id") ON DELETE no action ON UPDATE no action;