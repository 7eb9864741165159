CREATE TABLE "probe_machines" (
	"machine_id" text PRIMARY KEY NOT NULL,
	"outpost_id" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "probe_machines" ADD CONSTRAINT "probe_machines_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "probe_machines" ADD CONSTRAINT "probe_machines_outpost_id_outposts_id_fk" FOREIGN KEY ("outpost_id") REFERENCES "public"."outposts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "probe_machines_by_outpost" ON "probe_machines" USING btree ("outpost_id");