CREATE TABLE "machine_settings" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"machine_id" text NOT NULL,
	"taken_at" timestamp with time zone DEFAULT now() NOT NULL,
	"taken_by" text NOT NULL,
	"files" jsonb NOT NULL,
	"settings" jsonb NOT NULL,
	"accounts" jsonb NOT NULL,
	"faults" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "machine_settings" ADD CONSTRAINT "machine_settings_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "machine_settings_by_machine" ON "machine_settings" USING btree ("machine_id","id");