CREATE TABLE "user_certificates" (
	"name" text PRIMARY KEY NOT NULL,
	"thumbprint" text NOT NULL,
	"above" text[] DEFAULT '{}' NOT NULL,
	"set_at" timestamp with time zone NOT NULL,
	"set_by" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "user_certificates" ADD CONSTRAINT "user_certificates_thumbprint_certificates_thumbprint_fk" FOREIGN KEY ("thumbprint") REFERENCES "public"."certificates"("thumbprint") ON DELETE no action ON UPDATE no action;