CREATE TABLE "attempts" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"evidence_id" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"has_failed" boolean NOT NULL,
	"body" jsonb NOT NULL
);
--> statement-breakpoint
CREATE TABLE "evidence" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"bytes" bigint NOT NULL,
	"received" bigint DEFAULT 0 NOT NULL,
	"state" text NOT NULL,
	"form" text,
	"clock" jsonb NOT NULL,
	"sha256" text,
	"items" integer DEFAULT 0 NOT NULL,
	"attempts" integer DEFAULT 0 NOT NULL,
	"not_understood" integer DEFAULT 0 NOT NULL,
	"gaps" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"passed_over" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"fault" text,
	"first_at" timestamp with time zone,
	"last_at" timestamp with time zone,
	"brought_by" text NOT NULL,
	"brought_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "evidence_sha256_unique" UNIQUE("sha256")
);
--> statement-breakpoint
ALTER TABLE "attempts" ADD CONSTRAINT "attempts_evidence_id_evidence_id_fk" FOREIGN KEY ("evidence_id") REFERENCES "public"."evidence"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "attempts_by_evidence" ON "attempts" USING btree ("evidence_id");--> statement-breakpoint
CREATE INDEX "attempts_failed" ON "attempts" USING btree ("has_failed","started_at");