CREATE TABLE "application_certificates" (
	"application_id" text NOT NULL,
	"thumbprint" text NOT NULL,
	"first_seen" timestamp with time zone DEFAULT now() NOT NULL,
	"last_seen" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "application_certificates_application_id_thumbprint_pk" PRIMARY KEY("application_id","thumbprint")
);
--> statement-breakpoint
CREATE TABLE "authorities" (
	"thumbprint" text PRIMARY KEY NOT NULL,
	"key_kind" text,
	"crl_number" integer DEFAULT 0 NOT NULL,
	"crl_id" text,
	"is_current" boolean DEFAULT true NOT NULL,
	"since" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "crls" (
	"id" text PRIMARY KEY NOT NULL,
	"der" text NOT NULL,
	"first_seen" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "dismissals" (
	"application_id" text NOT NULL,
	"thumbprint" text NOT NULL,
	"by" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "dismissals_application_id_thumbprint_pk" PRIMARY KEY("application_id","thumbprint")
);
--> statement-breakpoint
CREATE TABLE "issued" (
	"authority" text NOT NULL,
	"serial_number" text NOT NULL,
	"thumbprint" text,
	"application_id" text,
	"issued_at" timestamp with time zone,
	"revoked_at" timestamp with time zone,
	"reason" text,
	CONSTRAINT "issued_authority_serial_number_pk" PRIMARY KEY("authority","serial_number")
);
--> statement-breakpoint
CREATE TABLE "order_lines" (
	"order_id" text NOT NULL,
	"position" integer NOT NULL,
	"change" jsonb NOT NULL,
	"why" text NOT NULL,
	"link_ids" text[] NOT NULL,
	"state" text NOT NULL,
	"says" text,
	"restarted" boolean DEFAULT false NOT NULL,
	"by" text,
	"at" timestamp with time zone,
	"proved_at" timestamp with time zone,
	CONSTRAINT "order_lines_order_id_position_pk" PRIMARY KEY("order_id","position")
);
--> statement-breakpoint
CREATE TABLE "trust_crls" (
	"application_id" text NOT NULL,
	"list" text NOT NULL,
	"crl_id" text NOT NULL,
	CONSTRAINT "trust_crls_application_id_list_crl_id_pk" PRIMARY KEY("application_id","list","crl_id")
);
--> statement-breakpoint
CREATE TABLE "trust_history" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"application_id" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"actor" text NOT NULL,
	"says" text NOT NULL,
	"before" jsonb NOT NULL,
	"after" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "trust_readings" (
	"application_id" text PRIMARY KEY NOT NULL,
	"read_at" timestamp with time zone,
	"source" text,
	"by" text NOT NULL,
	"tried_at" timestamp with time zone DEFAULT now() NOT NULL,
	"fault" text
);
--> statement-breakpoint
CREATE TABLE "trust_ways" (
	"application_id" text PRIMARY KEY NOT NULL,
	"way" text NOT NULL,
	"client_id" text,
	"endpoint_url" text,
	"user_name" text,
	"restarts" boolean DEFAULT false NOT NULL
);
--> statement-breakpoint
CREATE TABLE "work_orders" (
	"id" text PRIMARY KEY NOT NULL,
	"title" text NOT NULL,
	"state" text NOT NULL,
	"proposed_by" text NOT NULL,
	"proposed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"decided_by" text,
	"decided_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "trust_entries" ADD COLUMN "until" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "application_certificates" ADD CONSTRAINT "application_certificates_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "authorities" ADD CONSTRAINT "authorities_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "authorities" ADD CONSTRAINT "authorities_crl_id_crls_id_fk" FOREIGN KEY ("crl_id") REFERENCES "public"."crls"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "order_lines" ADD CONSTRAINT "order_lines_order_id_work_orders_id_fk" FOREIGN KEY ("order_id") REFERENCES "public"."work_orders"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "trust_crls" ADD CONSTRAINT "trust_crls_crl_id_crls_id_fk" FOREIGN KEY ("crl_id") REFERENCES "public"."crls"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "trust_history_by_application" ON "trust_history" USING btree ("application_id","id");