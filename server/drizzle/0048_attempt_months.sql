-- Attempts in a part for each month in which files were brought: what is old is dropped as a whole.
ALTER TABLE "attempts" RENAME TO "attempts_before";
--> statement-breakpoint
ALTER SEQUENCE "attempts_id_seq" RENAME TO "attempts_before_id_seq";
--> statement-breakpoint
ALTER TABLE "attempts_before" RENAME CONSTRAINT "attempts_pkey" TO "attempts_before_pkey";
--> statement-breakpoint
ALTER TABLE "attempts_before" RENAME CONSTRAINT "attempts_evidence_id_evidence_id_fk" TO "attempts_before_fk";
--> statement-breakpoint
DROP INDEX "attempts_by_evidence";
--> statement-breakpoint
DROP INDEX "attempts_failed";
--> statement-breakpoint
CREATE TABLE "attempts" (
	"id" bigserial NOT NULL,
	"evidence_id" text NOT NULL,
	"started_at" timestamp with time zone NOT NULL,
	"has_failed" boolean NOT NULL,
	"body" jsonb NOT NULL,
	"brought_at" timestamp with time zone NOT NULL,
	CONSTRAINT "attempts_id_brought_at_pk" PRIMARY KEY("id","brought_at")
) PARTITION BY RANGE ("brought_at");
--> statement-breakpoint
-- What was brought in a month that there is no part for, as it may where a clock is wrong.
CREATE TABLE "attempts_of_other_months" PARTITION OF "attempts" DEFAULT;
--> statement-breakpoint
ALTER TABLE "attempts" ADD CONSTRAINT "attempts_evidence_id_evidence_id_fk" FOREIGN KEY ("evidence_id") REFERENCES "public"."evidence"("id") ON DELETE cascade ON UPDATE no action;
--> statement-breakpoint
CREATE INDEX "attempts_by_evidence" ON "attempts" USING btree ("evidence_id");
--> statement-breakpoint
CREATE INDEX "attempts_failed" ON "attempts" USING btree ("has_failed","started_at");
--> statement-breakpoint
CREATE OR REPLACE FUNCTION make_parts_ahead() RETURNS void LANGUAGE sql AS $$
  SELECT make_parts('facts', 'month', now() - interval '1 day', now() + interval '2 months');
  SELECT make_parts('attempts', 'month', now() - interval '1 day', now() + interval '2 months');
  SELECT make_parts('events', 'day', now() - interval '1 day', now() + interval '3 days');
$$;
--> statement-breakpoint
SELECT make_parts('attempts', 'month', coalesce((SELECT min(brought_at) FROM evidence), now()), now());
--> statement-breakpoint
SELECT make_parts_ahead();
--> statement-breakpoint
INSERT INTO "attempts" ("evidence_id", "started_at", "has_failed", "body", "brought_at")
  SELECT a."evidence_id", a."started_at", a."has_failed", a."body", e."brought_at"
  FROM "attempts_before" a JOIN "evidence" e ON e."id" = a."evidence_id" ORDER BY a."id";
--> statement-breakpoint
DROP TABLE "attempts_before";
--> statement-breakpoint
-- Drops whole months of attempts whose files were brought before a moment. The files themselves go one by one.
CREATE FUNCTION forget_attempts(before timestamptz) RETURNS integer LANGUAGE plpgsql AS $$
DECLARE part text; dropped integer := 0;
BEGIN
  FOR part IN SELECT * FROM parts_before('attempts', 'month', least(before, now() - interval '1 day')) LOOP
    EXECUTE format('DROP TABLE public.%I', part);
    dropped := dropped + 1;
  END LOOP;
  RETURN dropped;
END $$;
