CREATE TABLE "entry_exceptions" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"of" text NOT NULL,
	"subject_id" text NOT NULL,
	"floor" jsonb NOT NULL,
	"reason" text NOT NULL,
	"until" timestamp with time zone NOT NULL,
	"given_by" text NOT NULL,
	"given_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"ended_by" text
);
--> statement-breakpoint
CREATE TABLE "server_endpoints" (
	"server_id" text PRIMARY KEY NOT NULL,
	"check_id" text NOT NULL,
	"seen_at" timestamp with time zone NOT NULL,
	"endpoints" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "server_endpoints" ADD CONSTRAINT "server_endpoints_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "entry_exceptions_by_subject" ON "entry_exceptions" USING btree ("subject_id");--> statement-breakpoint
-- What is known already: the newest answer of each server among the checks on which verdicts of today are based.
INSERT INTO "server_endpoints" ("server_id", "check_id", "seen_at", "endpoints")
SELECT DISTINCT ON (links.server_id) links.server_id, seen.check_id, seen.at, (
	SELECT jsonb_agg(one || jsonb_build_object('certificate', CASE WHEN jsonb_typeof(one->'certificate') = 'object'
		THEN jsonb_build_object('keyType', one#>'{certificate,keyType}', 'keyBits', one#>'{certificate,keyBits}') END) ORDER BY place)
	FROM jsonb_array_elements(seen.body->'endpoints') WITH ORDINALITY AS each (one, place)
)
FROM links
JOIN applications ON applications.id = links.server_id
JOIN assessments ON assessments.link_id = links.id
CROSS JOIN LATERAL (
	SELECT check_id, at, body FROM facts WHERE facts.check_id = assessments.check_id
	UNION ALL
	SELECT check_id, at, body FROM kept_facts WHERE kept_facts.check_id = assessments.check_id
) seen
WHERE seen.body->>'kind' = 'endpoints' AND seen.body->>'outcome' = 'listed'
	AND seen.body->'endpoints'->0->>'applicationUri' = applications.application_uri
ORDER BY links.server_id, seen.at DESC;
