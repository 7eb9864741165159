CREATE TABLE "proposals" (
	"id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"title" text NOT NULL,
	"says" text[] NOT NULL,
	"body" jsonb NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"proposed_by" text NOT NULL,
	"proposed_at" timestamp with time zone DEFAULT now() NOT NULL,
	"decided_by" text,
	"decided_at" timestamp with time zone
);
--> statement-breakpoint
CREATE INDEX "proposals_by_time" ON "proposals" USING btree ("proposed_at");