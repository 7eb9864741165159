CREATE TABLE "applications" (
	"id" text PRIMARY KEY NOT NULL,
	"machine_id" text NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"application_uri" text NOT NULL,
	"ports" integer[] NOT NULL,
	"security_policies" text[] NOT NULL,
	"security_modes" text[] NOT NULL
);
--> statement-breakpoint
CREATE TABLE "assessments" (
	"link_id" text PRIMARY KEY NOT NULL,
	"check_id" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"body" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "audit" (
	"sequence" bigserial PRIMARY KEY NOT NULL,
	"at" text NOT NULL,
	"actor" text NOT NULL,
	"action" text NOT NULL,
	"subject" text NOT NULL,
	"details" jsonb NOT NULL,
	"previous_hash" text NOT NULL,
	"hash" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "certificates" (
	"thumbprint" text PRIMARY KEY NOT NULL,
	"der" text NOT NULL,
	"first_seen" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "checks" (
	"id" text PRIMARY KEY NOT NULL,
	"link_id" text NOT NULL,
	"state" text NOT NULL,
	"asked_by" text NOT NULL,
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	"begun_at" timestamp with time zone,
	"ended_at" timestamp with time zone,
	"reason" text,
	"found" text
);
--> statement-breakpoint
CREATE TABLE "client_certificates" (
	"application_id" text PRIMARY KEY NOT NULL,
	"thumbprint" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "events" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"body" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "facts" (
	"id" text PRIMARY KEY NOT NULL,
	"position" integer NOT NULL,
	"check_id" text NOT NULL,
	"link_id" text NOT NULL,
	"source" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"body" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "links" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"client_id" text NOT NULL,
	"server_id" text NOT NULL,
	"endpoint_url" text NOT NULL,
	"pinned_address" text,
	"chosen_endpoint" jsonb,
	"needs" jsonb NOT NULL,
	"identity" jsonb NOT NULL,
	"floor" text NOT NULL,
	"stale_after_ms" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "machines" (
	"id" text PRIMARY KEY NOT NULL,
	"zone_id" text NOT NULL,
	"name" text NOT NULL,
	"description" text NOT NULL,
	"host_names" text[] NOT NULL,
	"addresses" text[] NOT NULL
);
--> statement-breakpoint
CREATE TABLE "people" (
	"name" text PRIMARY KEY NOT NULL,
	"role" text NOT NULL,
	"password_hash" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "secrets" (
	"name" text PRIMARY KEY NOT NULL,
	"sealed" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "settings" (
	"key" text PRIMARY KEY NOT NULL,
	"value" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "sign_ins" (
	"cookie_hash" text PRIMARY KEY NOT NULL,
	"person" text NOT NULL,
	"token" text NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE TABLE "stand_in_doors" (
	"application_id" text PRIMARY KEY NOT NULL,
	"url" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trust_entries" (
	"application_id" text NOT NULL,
	"list" text NOT NULL,
	"thumbprint" text NOT NULL,
	"since" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "trust_entries_application_id_list_thumbprint_pk" PRIMARY KEY("application_id","list","thumbprint")
);
--> statement-breakpoint
CREATE TABLE "zones" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"order" integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE "applications" ADD CONSTRAINT "applications_machine_id_machines_id_fk" FOREIGN KEY ("machine_id") REFERENCES "public"."machines"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "client_certificates" ADD CONSTRAINT "client_certificates_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "links" ADD CONSTRAINT "links_client_id_applications_id_fk" FOREIGN KEY ("client_id") REFERENCES "public"."applications"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "links" ADD CONSTRAINT "links_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "machines" ADD CONSTRAINT "machines_zone_id_zones_id_fk" FOREIGN KEY ("zone_id") REFERENCES "public"."zones"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD CONSTRAINT "sign_ins_person_people_name_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("name") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trust_entries" ADD CONSTRAINT "trust_entries_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "checks_by_link" ON "checks" USING btree ("link_id","asked_at");--> statement-breakpoint
CREATE INDEX "checks_by_state" ON "checks" USING btree ("state");--> statement-breakpoint
CREATE UNIQUE INDEX "facts_by_check" ON "facts" USING btree ("check_id","position");