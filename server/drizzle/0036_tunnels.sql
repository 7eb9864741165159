CREATE TABLE "outposts" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"machine_id" text NOT NULL,
	"ticket_hash" text,
	"ticket_until" timestamp with time zone,
	"request" text,
	"is_asking" boolean DEFAULT false NOT NULL,
	"authority" text,
	"thumbprint" text,
	"former_thumbprint" text,
	"heard_at" timestamp with time zone,
	"address" text,
	"process_id" text,
	"told" jsonb,
	CONSTRAINT "outposts_ticket_hash_unique" UNIQUE("ticket_hash")
);
--> statement-breakpoint
CREATE TABLE "tunnel_samples" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"outpost_id" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"statistics" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tunnelled_links" (
	"link_id" text PRIMARY KEY NOT NULL,
	"tunnel_id" text NOT NULL,
	"side" text NOT NULL,
	"entrance_address" text NOT NULL,
	"entrance_port" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tunnels" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"listening_id" text NOT NULL,
	"dialling_id" text NOT NULL,
	"address" text NOT NULL,
	"port" integer NOT NULL,
	"limits" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "outposts" ADD CONSTRAINT "outposts_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tunnel_samples" ADD CONSTRAINT "tunnel_samples_outpost_id_outposts_id_fk" FOREIGN KEY ("outpost_id") REFERENCES "public"."outposts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tunnelled_links" ADD CONSTRAINT "tunnelled_links_link_id_links_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."links"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tunnelled_links" ADD CONSTRAINT "tunnelled_links_tunnel_id_tunnels_id_fk" FOREIGN KEY ("tunnel_id") REFERENCES "public"."tunnels"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tunnels" ADD CONSTRAINT "tunnels_listening_id_outposts_id_fk" FOREIGN KEY ("listening_id") REFERENCES "public"."outposts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tunnels" ADD CONSTRAINT "tunnels_dialling_id_outposts_id_fk" FOREIGN KEY ("dialling_id") REFERENCES "public"."outposts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "outposts_by_machine" ON "outposts" USING btree ("machine_id");--> statement-breakpoint
CREATE INDEX "tunnel_samples_by_outpost" ON "tunnel_samples" USING btree ("outpost_id","at");--> statement-breakpoint
CREATE INDEX "tunnelled_links_by_tunnel" ON "tunnelled_links" USING btree ("tunnel_id");--> statement-breakpoint
CREATE INDEX "tunnels_by_listening" ON "tunnels" USING btree ("listening_id");--> statement-breakpoint
CREATE INDEX "tunnels_by_dialling" ON "tunnels" USING btree ("dialling_id");