CREATE TABLE "server_reports" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"server_id" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"kind" text NOT NULL,
	"outcome" text NOT NULL,
	"says" text NOT NULL,
	"user_name" text,
	"thumbprint" text,
	"heard_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "rights_snapshots" ADD COLUMN "part" text;--> statement-breakpoint
ALTER TABLE "server_reports" ADD CONSTRAINT "server_reports_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "server_reports_by_server" ON "server_reports" USING btree ("server_id","id");