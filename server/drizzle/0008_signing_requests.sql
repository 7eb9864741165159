CREATE TABLE "signing_requests" (
	"id" text PRIMARY KEY NOT NULL,
	"authority" text NOT NULL,
	"application_id" text NOT NULL,
	"request" text NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"thumbprint" text,
	"settled_at" timestamp with time zone
);
