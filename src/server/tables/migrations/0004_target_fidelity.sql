CREATE TABLE "target_fidelity" (
	"id" serial PRIMARY KEY NOT NULL,
	"input_key" text NOT NULL,
	"target" text NOT NULL,
	"lost" jsonb NOT NULL,
	"mean_flip" double precision NOT NULL,
	"p95_flip" double precision NOT NULL,
	"delta_e" double precision NOT NULL,
	"hash" text NOT NULL,
	"original_hash" text NOT NULL,
	"renderer_revision" integer NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "target_fidelity" ADD CONSTRAINT "target_fidelity_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "target_fidelity" ADD CONSTRAINT "target_fidelity_original_hash_files_hash_fk" FOREIGN KEY ("original_hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "target_fidelity_key" ON "target_fidelity" USING btree ("input_key","target");