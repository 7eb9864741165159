-- Facts in a part a month, events in a part a day: what is old is dropped as a whole.
CREATE TABLE "kept_facts" (
	"id" text NOT NULL,
	"position" integer NOT NULL,
	"check_id" text NOT NULL,
	"link_id" text NOT NULL,
	"source" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"body" jsonb NOT NULL,
	CONSTRAINT "kept_facts_check_id_position_at_pk" PRIMARY KEY("check_id","position","at")
);
--> statement-breakpoint
ALTER TABLE "facts" RENAME TO "facts_before";
--> statement-breakpoint
CREATE TABLE "facts" (
	"id" text NOT NULL,
	"position" integer NOT NULL,
	"check_id" text NOT NULL,
	"link_id" text NOT NULL,
	"source" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"body" jsonb NOT NULL,
	CONSTRAINT "facts_check_id_position_at_pk" PRIMARY KEY("check_id","position","at")
) PARTITION BY RANGE ("at");
--> statement-breakpoint
-- What bears a date of no month that there is a part for, as it may where a clock is wrong.
CREATE TABLE "facts_of_other_months" PARTITION OF "facts" DEFAULT;
--> statement-breakpoint
ALTER TABLE "events" RENAME TO "events_before";
--> statement-breakpoint
ALTER SEQUENCE "events_id_seq" RENAME TO "events_before_id_seq";
--> statement-breakpoint
ALTER TABLE "events_before" RENAME CONSTRAINT "events_pkey" TO "events_before_pkey";
--> statement-breakpoint
CREATE TABLE "events" (
	"id" bigserial NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"body" jsonb NOT NULL,
	CONSTRAINT "events_id_at_pk" PRIMARY KEY("id","at")
) PARTITION BY RANGE ("at");
--> statement-breakpoint
CREATE TABLE "events_of_other_days" PARTITION OF "events" DEFAULT;
--> statement-breakpoint
-- Makes a part of a table for each month or day (UTC) between two moments that has none yet.
CREATE FUNCTION make_parts(of_table text, span text, since timestamptz, until timestamptz) RETURNS void LANGUAGE plpgsql AS $$
DECLARE one timestamp; part text;
BEGIN
  FOR one IN SELECT generate_series(date_trunc(span, since AT TIME ZONE 'UTC'), until AT TIME ZONE 'UTC', ('1 ' || span)::interval) LOOP
    part := of_table || '_' || to_char(one, CASE span WHEN 'month' THEN 'YYYY_MM' ELSE 'YYYY_MM_DD' END);
    IF to_regclass('public.' || part) IS NULL THEN
      -- Two processes may want the same part at once.
      PERFORM pg_advisory_xact_lock(4840003);
      IF to_regclass('public.' || part) IS NULL THEN
        BEGIN
          EXECUTE format('CREATE TABLE public.%I PARTITION OF public.%I FOR VALUES FROM (%L) TO (%L)', part, of_table,
            one AT TIME ZONE 'UTC', (one + ('1 ' || span)::interval) AT TIME ZONE 'UTC');
        EXCEPTION WHEN check_violation THEN
          -- Rows of this span lie among the others already: there they stay.
          NULL;
        END;
      END IF;
    END IF;
  END LOOP;
END $$;
--> statement-breakpoint
-- The parts that are written to now and soon; called at the start and every hour.
CREATE FUNCTION make_parts_ahead() RETURNS void LANGUAGE sql AS $$
  SELECT make_parts('facts', 'month', now() - interval '1 day', now() + interval '2 months');
  SELECT make_parts('events', 'day', now() - interval '1 day', now() + interval '3 days');
$$;
--> statement-breakpoint
SELECT make_parts('facts', 'month', coalesce((SELECT min(at) FROM facts_before), now()), now());
--> statement-breakpoint
SELECT make_parts_ahead();
--> statement-breakpoint
INSERT INTO "facts" ("id", "position", "check_id", "link_id", "source", "at", "body")
  SELECT "id", "position", "check_id", "link_id", "source", "at", "body" FROM "facts_before";
--> statement-breakpoint
DROP TABLE "facts_before";
--> statement-breakpoint
INSERT INTO "events" ("id", "at", "body") SELECT "id", "at", "body" FROM "events_before" WHERE "at" > now() - interval '1 day';
--> statement-breakpoint
SELECT setval('events_id_seq', greatest((SELECT max(id) FROM events_before), 1), (SELECT count(*) > 0 FROM events_before));
--> statement-breakpoint
DROP TABLE "events_before";
--> statement-breakpoint
CREATE TRIGGER facts_append_only BEFORE UPDATE OR DELETE OR TRUNCATE ON "facts" FOR EACH STATEMENT EXECUTE FUNCTION refuse_change();
--> statement-breakpoint
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  RAISE EXCEPTION '% is append-only', TG_TABLE_NAME;
END $$;
--> statement-breakpoint
-- The parts of a table that lie wholly before a moment.
CREATE FUNCTION parts_before(of_table text, span text, before timestamptz) RETURNS SETOF text LANGUAGE sql AS $$
  SELECT c.relname::text FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
  WHERE i.inhparent = ('public.' || of_table)::regclass
    AND c.relname ~ ('^' || of_table || '_[0-9]{4}_[0-9]{2}')
    AND (to_date(substr(c.relname, length(of_table) + 2), CASE span WHEN 'month' THEN 'YYYY_MM' ELSE 'YYYY_MM_DD' END)
      + ('1 ' || span)::interval) AT TIME ZONE 'UTC' <= before
$$;
--> statement-breakpoint
-- Drops whole months of facts that are over before a moment. What a verdict of today rests on is kept beside them.
CREATE FUNCTION forget_facts(before timestamptz) RETURNS integer LANGUAGE plpgsql AS $$
DECLARE part text; dropped integer := 0;
BEGIN
  FOR part IN SELECT * FROM parts_before('facts', 'month', least(before, now() - interval '1 day')) LOOP
    EXECUTE format('INSERT INTO public.kept_facts SELECT f.id, f.position, f.check_id, f.link_id, f.source, f.at, f.body
      FROM public.%I f WHERE EXISTS (SELECT 1 FROM public.assessments a WHERE a.check_id = f.check_id) ON CONFLICT DO NOTHING', part);
    EXECUTE format('DROP TABLE public.%I', part);
    dropped := dropped + 1;
  END LOOP;
  DELETE FROM public.kept_facts k WHERE NOT EXISTS (SELECT 1 FROM public.assessments a WHERE a.check_id = k.check_id);
  RETURN dropped;
END $$;
--> statement-breakpoint
CREATE FUNCTION forget_events(before timestamptz) RETURNS integer LANGUAGE plpgsql AS $$
DECLARE part text; dropped integer := 0;
BEGIN
  FOR part IN SELECT * FROM parts_before('events', 'day', least(before, now() - interval '1 hour')) LOOP
    EXECUTE format('DROP TABLE public.%I', part);
    dropped := dropped + 1;
  END LOOP;
  DELETE FROM public.events_of_other_days WHERE at < before;
  RETURN dropped;
END $$;
--> statement-breakpoint
-- Lets checks go whose facts were dropped, some at a time.
CREATE OR REPLACE FUNCTION forget_checks(before timestamptz, most integer) RETURNS integer LANGUAGE plpgsql AS $$
DECLARE gone integer; oldest timestamptz;
BEGIN
  SELECT min(to_date(substr(c.relname, 7), 'YYYY_MM'))::timestamp AT TIME ZONE 'UTC' INTO oldest
    FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid
    WHERE i.inhparent = 'public.facts'::regclass AND c.relname ~ '^facts_[0-9]{4}_[0-9]{2}$';
  WITH old AS (
    SELECT c.id FROM checks c
    WHERE c.ended_at < least(forget_checks.before, coalesce(oldest, '-infinity'))
      AND NOT EXISTS (SELECT 1 FROM assessments a WHERE a.check_id = c.id)
    ORDER BY c.ended_at LIMIT most
  ), deleted AS (DELETE FROM checks c USING old WHERE c.id = old.id RETURNING 1)
  SELECT count(*) INTO gone FROM deleted;
  RETURN gone;
END $$;
