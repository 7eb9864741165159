CREATE TABLE "audit_seals" (
	"day" text PRIMARY KEY NOT NULL,
	"sequence" bigint NOT NULL,
	"hash" text NOT NULL,
	"at" text NOT NULL,
	"key_id" text NOT NULL,
	"seal" text NOT NULL
);
--> statement-breakpoint
CREATE INDEX "audit_by_subject" ON "audit" USING btree ("subject","sequence");--> statement-breakpoint
CREATE INDEX "audit_by_actor" ON "audit" USING btree ("actor","sequence");