CREATE EXTENSION IF NOT EXISTS pg_trgm;
--> statement-breakpoint
-- Host names as one text, for finding names that are written alike.
CREATE FUNCTION host_names_text(text[]) RETURNS text LANGUAGE sql IMMUTABLE PARALLEL SAFE AS $$ SELECT array_to_string($1, ' ') $$;
--> statement-breakpoint
CREATE TABLE "board" (
	"link_id" text PRIMARY KEY NOT NULL,
	"kind" text NOT NULL,
	"name" text NOT NULL,
	"client" text NOT NULL,
	"client_zone" text NOT NULL,
	"server" text NOT NULL,
	"server_zone" text NOT NULL,
	"machine_id" text NOT NULL,
	"endpoint_url" text NOT NULL,
	"state" text NOT NULL,
	"rank" smallint NOT NULL,
	"place" smallint NOT NULL,
	"headline" text NOT NULL,
	"parted_at" text,
	"leading_cause" text,
	"verdicts" text[] NOT NULL,
	"checked_at" timestamp with time zone,
	"search" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "assessments" ADD COLUMN "state" text, ADD COLUMN "headline" text, ADD COLUMN "parted_at" text,
	ADD COLUMN "leading_cause" text, ADD COLUMN "verdicts" text[];--> statement-breakpoint
UPDATE "assessments" SET "state" = body->>'state', "headline" = body->>'headline', "parted_at" = body->>'partedAt',
	"leading_cause" = body->>'leadingCause',
	"verdicts" = ARRAY(SELECT s.step->>'verdict' FROM jsonb_array_elements(body->'steps') WITH ORDINALITY AS s(step, n) ORDER BY s.n);--> statement-breakpoint
DELETE FROM "assessments" WHERE "link_id" NOT IN (SELECT "id" FROM "links");--> statement-breakpoint
ALTER TABLE "assessments" ALTER COLUMN "state" SET NOT NULL, ALTER COLUMN "headline" SET NOT NULL, ALTER COLUMN "verdicts" SET NOT NULL;--> statement-breakpoint
ALTER TABLE "links" ADD COLUMN "kind" text DEFAULT 'ua' NOT NULL;--> statement-breakpoint
ALTER TABLE "board" ADD CONSTRAINT "board_link_id_links_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."links"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "board_by_place" ON "board" USING btree ("rank","place","name","link_id");--> statement-breakpoint
CREATE INDEX "board_by_name" ON "board" USING btree ("name","link_id");--> statement-breakpoint
CREATE INDEX "board_by_server" ON "board" USING btree ("server","name","link_id");--> statement-breakpoint
CREATE INDEX "board_by_time" ON "board" USING btree ("checked_at","link_id");--> statement-breakpoint
CREATE INDEX "board_by_state" ON "board" USING btree ("state");--> statement-breakpoint
CREATE INDEX "board_search" ON "board" USING gin ("search" gin_trgm_ops);--> statement-breakpoint
ALTER TABLE "assessments" ADD CONSTRAINT "assessments_link_id_links_id_fk" FOREIGN KEY ("link_id") REFERENCES "public"."links"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "application_certificates_by_certificate" ON "application_certificates" USING btree ("thumbprint");--> statement-breakpoint
CREATE INDEX "applications_by_machine" ON "applications" USING btree ("machine_id");--> statement-breakpoint
CREATE INDEX "applications_by_uri" ON "applications" USING btree ("application_uri");--> statement-breakpoint
CREATE INDEX "applications_by_name" ON "applications" USING btree ("name");--> statement-breakpoint
CREATE INDEX IF NOT EXISTS "assessments_by_check" ON "assessments" USING btree ("check_id");--> statement-breakpoint
CREATE INDEX IF NOT EXISTS "checks_by_end" ON "checks" USING btree ("ended_at");--> statement-breakpoint
CREATE INDEX "links_by_client" ON "links" USING btree ("client_id");--> statement-breakpoint
CREATE INDEX "links_by_server" ON "links" USING btree ("server_id");--> statement-breakpoint
CREATE INDEX "machines_by_zone" ON "machines" USING btree ("zone_id");--> statement-breakpoint
CREATE INDEX "machines_by_name" ON "machines" USING btree ("name");--> statement-breakpoint
CREATE INDEX "machines_by_address" ON "machines" USING gin ("addresses");--> statement-breakpoint
CREATE INDEX "machines_by_host" ON "machines" USING gin (host_names_text("host_names") gin_trgm_ops);--> statement-breakpoint
CREATE INDEX "trust_crls_by_crl" ON "trust_crls" USING btree ("crl_id");--> statement-breakpoint
CREATE INDEX "trust_entries_by_certificate" ON "trust_entries" USING btree ("thumbprint");--> statement-breakpoint
CREATE INDEX "waivers_by_holder" ON "waivers" USING btree ("holder_id");
--> statement-breakpoint
-- Brings the board’s rows of some links up to date with whatever they are put together from.
-- Many at once wait in the list of their index until `settle_board` puts them into it.
CREATE FUNCTION board_follow(ids text[]) RETURNS void LANGUAGE sql SET gin_pending_list_limit = '256MB' SET work_mem = '64MB' AS $$
  INSERT INTO board AS b (link_id, kind, name, client, client_zone, server, server_zone, machine_id, endpoint_url,
    state, rank, place, headline, parted_at, leading_cause, verdicts, checked_at, search)
  SELECT l.id, l.kind, l.name, c.name, cz.name, s.name, sz.name, s.machine_id, l.endpoint_url,
    coalesce(a.state, 'Untried'),
    CASE a.state WHEN 'Parted' THEN 0 WHEN 'Strained' THEN 1 WHEN 'Sound' THEN 3 ELSE 2 END,
    coalesce(array_position(a.verdicts, 'fails'), array_position(a.verdicts, 'weak'), 1000),
    coalesce(a.headline, 'This link has never been checked.'), a.parted_at, a.leading_cause, coalesce(a.verdicts, '{}'), a.at,
    lower(concat_ws(' ', l.name, coalesce(a.state, 'Untried'), c.name, cz.name, s.name, sz.name, l.endpoint_url,
      a.leading_cause, left(a.headline, 400)))
  FROM links l
  JOIN applications c ON c.id = l.client_id JOIN machines cm ON cm.id = c.machine_id JOIN zones cz ON cz.id = cm.zone_id
  JOIN applications s ON s.id = l.server_id JOIN machines sm ON sm.id = s.machine_id JOIN zones sz ON sz.id = sm.zone_id
  LEFT JOIN assessments a ON a.link_id = l.id
  WHERE l.id = ANY(ids)
  -- In the order of the indexes they are written several times as fast.
  ORDER BY l.name, l.id
  ON CONFLICT (link_id) DO UPDATE SET (kind, name, client, client_zone, server, server_zone, machine_id, endpoint_url,
    state, rank, place, headline, parted_at, leading_cause, verdicts, checked_at, search)
  = (excluded.kind, excluded.name, excluded.client, excluded.client_zone, excluded.server, excluded.server_zone,
    excluded.machine_id, excluded.endpoint_url, excluded.state, excluded.rank, excluded.place, excluded.headline,
    excluded.parted_at, excluded.leading_cause, excluded.verdicts, excluded.checked_at, excluded.search)
  WHERE (b.kind, b.endpoint_url, b.machine_id, b.search, b.verdicts, b.headline)
    IS DISTINCT FROM (excluded.kind, excluded.endpoint_url, excluded.machine_id, excluded.search, excluded.verdicts, excluded.headline)
    OR b.checked_at IS DISTINCT FROM excluded.checked_at;
$$;
--> statement-breakpoint
CREATE FUNCTION board_follows_links() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM board_follow(ARRAY(SELECT id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION board_follows_assessments() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM board_follow(ARRAY(SELECT link_id FROM changed));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION board_follows_applications() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM board_follow(ARRAY(
    SELECT l.id FROM links l JOIN changed n ON n.id = l.client_id JOIN before o ON o.id = n.id
      WHERE (o.name, o.machine_id) IS DISTINCT FROM (n.name, n.machine_id)
    UNION SELECT l.id FROM links l JOIN changed n ON n.id = l.server_id JOIN before o ON o.id = n.id
      WHERE (o.name, o.machine_id) IS DISTINCT FROM (n.name, n.machine_id)));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION board_follows_machines() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM board_follow(ARRAY(
    SELECT l.id FROM links l WHERE EXISTS (
      SELECT 1 FROM applications a JOIN changed n ON n.id = a.machine_id JOIN before o ON o.id = n.id
      WHERE a.id IN (l.client_id, l.server_id) AND o.zone_id <> n.zone_id)));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE FUNCTION board_follows_zones() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  PERFORM board_follow(ARRAY(
    SELECT l.id FROM links l WHERE EXISTS (
      SELECT 1 FROM applications a JOIN machines m ON m.id = a.machine_id JOIN changed n ON n.id = m.zone_id
      JOIN before o ON o.id = n.id WHERE a.id IN (l.client_id, l.server_id) AND o.name <> n.name)));
  RETURN NULL;
END $$;
--> statement-breakpoint
CREATE TRIGGER board_after_links_added AFTER INSERT ON links REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_links();
--> statement-breakpoint
CREATE TRIGGER board_after_links_changed AFTER UPDATE ON links REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_links();
--> statement-breakpoint
CREATE TRIGGER board_after_assessments_added AFTER INSERT ON assessments REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_assessments();
--> statement-breakpoint
CREATE TRIGGER board_after_assessments_changed AFTER UPDATE ON assessments REFERENCING NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_assessments();
--> statement-breakpoint
CREATE TRIGGER board_after_assessments_gone AFTER DELETE ON assessments REFERENCING OLD TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_assessments();
--> statement-breakpoint
CREATE TRIGGER board_after_applications AFTER UPDATE ON applications REFERENCING OLD TABLE AS before NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_applications();
--> statement-breakpoint
CREATE TRIGGER board_after_machines AFTER UPDATE ON machines REFERENCING OLD TABLE AS before NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_machines();
--> statement-breakpoint
CREATE TRIGGER board_after_zones AFTER UPDATE ON zones REFERENCING OLD TABLE AS before NEW TABLE AS changed FOR EACH STATEMENT EXECUTE FUNCTION board_follows_zones();
--> statement-breakpoint
CREATE FUNCTION settle_board() RETURNS void LANGUAGE sql AS $$ SELECT gin_clean_pending_list('board_search'::regclass) $$;
--> statement-breakpoint
SELECT board_follow(ARRAY(SELECT id FROM links));
