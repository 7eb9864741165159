CREATE TABLE "server_redundancy" (
	"server_id" text PRIMARY KEY NOT NULL,
	"seen_at" timestamp with time zone NOT NULL,
	"uris" text[] NOT NULL
);
--> statement-breakpoint
ALTER TABLE "server_redundancy" ADD CONSTRAINT "server_redundancy_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;