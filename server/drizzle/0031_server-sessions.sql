CREATE TABLE "server_sessions" (
	"server_id" text PRIMARY KEY NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	"sessions" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "server_sessions" ADD CONSTRAINT "server_sessions_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;