CREATE TABLE "plant_services" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"machine_id" text NOT NULL,
	"port" integer,
	"zone_ids" text[] NOT NULL
);
--> statement-breakpoint
ALTER TABLE "plant_services" ADD CONSTRAINT "plant_services_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "plant_services_by_machine" ON "plant_services" USING btree ("machine_id");