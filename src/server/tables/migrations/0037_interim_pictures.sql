CREATE TABLE "mock_up_interim_pictures" (
	"picture_id" integer PRIMARY KEY NOT NULL,
	"number" integer NOT NULL,
	"bytes" "bytea" NOT NULL
);
--> statement-breakpoint
ALTER TABLE "mock_up_interim_pictures" ADD CONSTRAINT "mock_up_interim_pictures_picture_id_mock_up_pictures_id_fk" FOREIGN KEY ("picture_id") REFERENCES "public"."mock_up_pictures"("id") ON DELETE cascade ON UPDATE no action;