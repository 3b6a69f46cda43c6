CREATE TABLE "turntables" (
	"id" serial PRIMARY KEY NOT NULL,
	"input_key" text NOT NULL,
	"rig" text NOT NULL,
	"revision" integer NOT NULL,
	"renderer_revision" integer NOT NULL,
	"hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "turntables" ADD CONSTRAINT "turntables_hash_files_hash_fk" FOREIGN KEY ("hash") REFERENCES "public"."files"("hash") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "turntables_key" ON "turntables" USING btree ("input_key","rig","revision","renderer_revision");