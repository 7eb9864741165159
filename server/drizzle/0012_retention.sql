-- Facts are append-only for everybody but the rule that lets old ones go: it says so for its own transaction.
CREATE OR REPLACE FUNCTION refuse_change() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_TABLE_NAME = 'facts' AND TG_OP = 'DELETE' AND current_setting('hinge.retention', true) = 'on' THEN
    RETURN NULL;
  END IF;
  RAISE EXCEPTION '% is append-only', TG_TABLE_NAME;
END $$;
--> statement-breakpoint
-- Lets checks go that ended before a moment, with their facts, but for those that a verdict of today rests on.
CREATE FUNCTION forget_checks(before timestamptz, most integer) RETURNS integer LANGUAGE plpgsql AS $$
DECLARE gone text[];
BEGIN
  SELECT array_agg(id) INTO gone FROM (
    SELECT c.id FROM checks c
    WHERE c.ended_at < forget_checks.before
      AND NOT EXISTS (SELECT 1 FROM assessments a WHERE a.check_id = c.id)
    ORDER BY c.ended_at LIMIT most
  ) old;
  IF gone IS NULL THEN RETURN 0; END IF;
  PERFORM set_config('hinge.retention', 'on', true);
  DELETE FROM facts WHERE check_id = ANY(gone);
  DELETE FROM checks WHERE id = ANY(gone);
  PERFORM set_config('hinge.retention', 'off', true);
  RETURN cardinality(gone);
END $$;
--> statement-breakpoint
CREATE INDEX "checks_by_end" ON "checks" USING btree ("ended_at");
--> statement-breakpoint
CREATE INDEX "assessments_by_check" ON "assessments" USING btree ("check_id");
