CREATE TABLE "gateway_asks" (
	"id" text PRIMARY KEY NOT NULL,
	"gateway_id" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"wish" jsonb NOT NULL,
	"answer" jsonb
);
--> statement-breakpoint
CREATE TABLE "gateway_relays" (
	"gateway_id" text NOT NULL,
	"id" text NOT NULL,
	"relay" jsonb NOT NULL,
	CONSTRAINT "gateway_relays_gateway_id_id_pk" PRIMARY KEY("gateway_id","id")
);
--> statement-breakpoint
CREATE TABLE "gateways" (
	"outpost_id" text PRIMARY KEY NOT NULL,
	"client_id" text NOT NULL,
	"server_id" text NOT NULL,
	"address" text NOT NULL,
	"port" integer NOT NULL,
	"places" jsonb DEFAULT '[]'::jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "gateway_asks" ADD CONSTRAINT "gateway_asks_gateway_id_gateways_outpost_id_fk" FOREIGN KEY ("gateway_id") REFERENCES "public"."gateways"("outpost_id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gateway_relays" ADD CONSTRAINT "gateway_relays_gateway_id_gateways_outpost_id_fk" FOREIGN KEY ("gateway_id") REFERENCES "public"."gateways"("outpost_id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gateways" ADD CONSTRAINT "gateways_outpost_id_outposts_id_fk" FOREIGN KEY ("outpost_id") REFERENCES "public"."outposts"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gateways" ADD CONSTRAINT "gateways_client_id_applications_id_fk" FOREIGN KEY ("client_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gateways" ADD CONSTRAINT "gateways_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "gateway_asks_by_gateway" ON "gateway_asks" USING btree ("gateway_id","at");--> statement-breakpoint
CREATE INDEX "gateways_by_client" ON "gateways" USING btree ("client_id");--> statement-breakpoint
CREATE INDEX "gateways_by_server" ON "gateways" USING btree ("server_id");