CREATE TABLE "pull_tickets" (
	"id" text PRIMARY KEY NOT NULL,
	"token_hash" text NOT NULL,
	"application_id" text NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"request" text,
	"requested_at" timestamp with time zone,
	"thumbprint" text,
	"authority" text,
	"fetched_at" timestamp with time zone,
	CONSTRAINT "pull_tickets_token_hash_unique" UNIQUE("token_hash")
);
