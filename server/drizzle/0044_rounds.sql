CREATE TABLE "link_spans" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"link_id" text NOT NULL,
	"state" text NOT NULL,
	"cause_id" text,
	"parted_at" text,
	"title" text NOT NULL,
	"headline" text NOT NULL,
	"from_at" timestamp with time zone NOT NULL,
	"to_at" timestamp with time zone NOT NULL,
	"checks" integer NOT NULL,
	"last_check_id" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "round_runs" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"round_id" text NOT NULL,
	"begun_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"links" integer NOT NULL,
	"pending" text[] NOT NULL,
	"asked_by" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "rounds" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"scope" jsonb NOT NULL,
	"every_minutes" integer NOT NULL,
	"at" text NOT NULL,
	"quiet" jsonb,
	"zone" text NOT NULL,
	"per_minute" integer NOT NULL,
	"is_paused" boolean NOT NULL,
	"next_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "round_runs" ADD CONSTRAINT "round_runs_round_id_rounds_id_fk" FOREIGN KEY ("round_id") REFERENCES "public"."rounds"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "link_spans_by_link" ON "link_spans" USING btree ("link_id","id");--> statement-breakpoint
CREATE INDEX "link_spans_by_end" ON "link_spans" USING btree ("to_at");--> statement-breakpoint
CREATE INDEX "link_spans_parted" ON "link_spans" USING btree ("state","to_at");--> statement-breakpoint
CREATE INDEX "round_runs_by_round" ON "round_runs" USING btree ("round_id","id");--> statement-breakpoint
-- How links are known to be now is where their time line begins.
INSERT INTO "link_spans" ("link_id", "state", "cause_id", "parted_at", "title", "headline", "from_at", "to_at", "checks", "last_check_id")
  SELECT "link_id", "state", "leading_cause", "parted_at", "headline", "headline", "at", "at", 1, "check_id" FROM "assessments" ORDER BY "at";
