-- Events get their numbers one transaction after the other: who has read up to a number has missed none below it.
CREATE FUNCTION tell_event(body jsonb) RETURNS bigint LANGUAGE plpgsql AS $$
DECLARE told bigint;
BEGIN
  PERFORM pg_advisory_xact_lock(4840002);
  INSERT INTO events (body) VALUES (tell_event.body) RETURNING id INTO told;
  PERFORM pg_notify('hinge', 'event');
  RETURN told;
END $$;
--> statement-breakpoint
CREATE INDEX "events_by_time" ON "events" USING btree ("at");
