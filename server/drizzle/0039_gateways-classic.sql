ALTER TABLE "gateways" ADD COLUMN "classic_client_id" text;--> statement-breakpoint
ALTER TABLE "gateways" ADD COLUMN "classic_server_id" text;--> statement-breakpoint
ALTER TABLE "gateways" ADD COLUMN "mapper_port" integer;--> statement-breakpoint
ALTER TABLE "gateways" ADD COLUMN "clsid" text;--> statement-breakpoint
ALTER TABLE "gateways" ADD CONSTRAINT "gateways_classic_client_id_applications_id_fk" FOREIGN KEY ("classic_client_id") REFERENCES "public"."applications"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "gateways" ADD CONSTRAINT "gateways_classic_server_id_applications_id_fk" FOREIGN KEY ("classic_server_id") REFERENCES "public"."applications"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "gateways_by_classic_client" ON "gateways" USING btree ("classic_client_id");--> statement-breakpoint
CREATE INDEX "gateways_by_classic_server" ON "gateways" USING btree ("classic_server_id");