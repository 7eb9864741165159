CREATE TABLE "item_origins" (
	"server_id" text NOT NULL,
	"path" text NOT NULL,
	"device_id" text NOT NULL,
	"origin" jsonb NOT NULL,
	"changed_by" text NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "item_origins_server_id_path_pk" PRIMARY KEY("server_id","path")
);
--> statement-breakpoint
ALTER TABLE "item_origins" ADD CONSTRAINT "item_origins_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "item_origins_by_device" ON "item_origins" USING btree ("device_id");