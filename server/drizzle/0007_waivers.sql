CREATE TABLE "waivers" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"holder_id" text NOT NULL,
	"thumbprint" text NOT NULL,
	"step" text NOT NULL,
	"until" timestamp with time zone NOT NULL,
	"why" text NOT NULL,
	"given_by" text NOT NULL,
	"given_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"ended_by" text
);
--> statement-breakpoint
ALTER TABLE "waivers" ADD CONSTRAINT "waivers_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "waivers_by_certificate" ON "waivers" USING btree ("thumbprint");