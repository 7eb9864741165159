CREATE TABLE "conduits" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"from_zone_id" text NOT NULL,
	"to_zone_id" text NOT NULL,
	"firewall_ids" text[] NOT NULL,
	"target_level" integer
);
--> statement-breakpoint
CREATE TABLE "firewall_rules" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"firewall_id" text NOT NULL,
	"taken_at" timestamp with time zone DEFAULT now() NOT NULL,
	"taken_by" text NOT NULL,
	"file" text NOT NULL,
	"format" text NOT NULL,
	"rules" integer NOT NULL,
	"text" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "firewalls" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"machine_id" text,
	"interfaces" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "conduits" ADD CONSTRAINT "conduits_from_zone_id_zones_id_fk" FOREIGN KEY ("from_zone_id") REFERENCES "public"."zones"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "conduits" ADD CONSTRAINT "conduits_to_zone_id_zones_id_fk" FOREIGN KEY ("to_zone_id") REFERENCES "public"."zones"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "firewall_rules" ADD CONSTRAINT "firewall_rules_firewall_id_firewalls_id_fk" FOREIGN KEY ("firewall_id") REFERENCES "public"."firewalls"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "firewalls" ADD CONSTRAINT "firewalls_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "conduits_by_from_zone" ON "conduits" USING btree ("from_zone_id");--> statement-breakpoint
CREATE INDEX "conduits_by_to_zone" ON "conduits" USING btree ("to_zone_id");--> statement-breakpoint
CREATE INDEX "firewall_rules_by_firewall" ON "firewall_rules" USING btree ("firewall_id","id");--> statement-breakpoint
CREATE INDEX "firewalls_by_machine" ON "firewalls" USING btree ("machine_id");