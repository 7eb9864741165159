CREATE TABLE "trust_versions" (
	"part" text NOT NULL,
	"id" text NOT NULL,
	"changed_by" xid8 NOT NULL
);
--> statement-breakpoint
CREATE INDEX "trust_versions_by_change" ON "trust_versions" USING btree ("changed_by");
--> statement-breakpoint
-- Notes that parts of what trust is put together from have changed, by this transaction. Of very many, the whole plant is noted.
-- Rows are only added, so that no transaction waits for another one here; what is noted twice goes later.
CREATE FUNCTION note_trust_change(part text, ids text[]) RETURNS void LANGUAGE plpgsql AS $$
BEGIN
  IF cardinality(ids) > 2000 THEN
    INSERT INTO trust_versions VALUES ('plant', '', pg_current_xact_id());
    RETURN;
  END IF;
  INSERT INTO trust_versions SELECT note_trust_change.part, one.id, pg_current_xact_id()
    FROM (SELECT DISTINCT unnest(ids) AS id) one;
END $$;
--> statement-breakpoint
-- Of each part the newest note stays.
CREATE FUNCTION settle_trust_versions() RETURNS void LANGUAGE sql AS $$
  DELETE FROM trust_versions WHERE ctid IN (
    SELECT ctid FROM (
      SELECT ctid, row_number() OVER (PARTITION BY part, id ORDER BY changed_by DESC, ctid DESC) AS place FROM trust_versions) numbered
    WHERE place > 1)
$$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_application() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('application', ARRAY(SELECT application_id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_holder() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('application', ARRAY(SELECT holder_id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_applications() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('application', ARRAY(SELECT id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_links() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('link', ARRAY(SELECT id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_assessments() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('link', ARRAY(SELECT link_id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_certificates() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('certificate', ARRAY(SELECT thumbprint FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_crls() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('crl', ARRAY(SELECT id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION note_trust_of_places() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM note_trust_change('plant', ARRAY['places']);
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON trust_entries REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON trust_entries REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON trust_entries REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON trust_crls REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON trust_crls REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON trust_crls REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON trust_readings REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON trust_readings REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON trust_readings REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON trust_ways REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON trust_ways REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON trust_ways REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON application_certificates REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON application_certificates REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON application_certificates REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON client_certificates REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON client_certificates REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON client_certificates REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_application();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON waivers REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_holder();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON waivers REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_holder();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON waivers REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_holder();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON applications REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_applications();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON applications REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_applications();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON applications REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_applications();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON links REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_links();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON links REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_links();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON links REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_links();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON assessments REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_assessments();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_update AFTER UPDATE ON assessments REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_assessments();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_delete AFTER DELETE ON assessments REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_assessments();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON certificates REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_certificates();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_insert AFTER INSERT ON crls REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_crls();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_change AFTER INSERT OR UPDATE OR DELETE ON zones FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_places();
--> statement-breakpoint
CREATE TRIGGER note_trust_after_change AFTER INSERT OR UPDATE OR DELETE ON machines FOR EACH STATEMENT EXECUTE FUNCTION note_trust_of_places();
