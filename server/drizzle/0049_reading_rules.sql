CREATE TABLE "reading_rules" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"pattern" text NOT NULL,
	"machine" text NOT NULL,
	"means" text NOT NULL,
	"changed_by" text NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "reading_rules_name_unique" UNIQUE("name")
);
--> statement-breakpoint
ALTER TABLE "evidence" ADD COLUMN "rule_id" text;--> statement-breakpoint
ALTER TABLE "evidence" ADD CONSTRAINT "evidence_rule_id_reading_rules_id_fk" FOREIGN KEY ("rule_id") REFERENCES "public"."reading_rules"("id") ON DELETE set null ON UPDATE no action;