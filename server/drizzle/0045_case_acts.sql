CREATE TABLE "case_acts" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"case_key" text NOT NULL,
	"about_at" timestamp with time zone NOT NULL,
	"kind" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"by" text NOT NULL,
	"text" text NOT NULL,
	"to" text
);
--> statement-breakpoint
CREATE TABLE "happenings" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"evidence_id" text NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"computer" text NOT NULL,
	"says" text NOT NULL,
	"position" bigint NOT NULL
);
--> statement-breakpoint
ALTER TABLE "happenings" ADD CONSTRAINT "happenings_evidence_id_evidence_id_fk" FOREIGN KEY ("evidence_id") REFERENCES "public"."evidence"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "case_acts_by_case" ON "case_acts" USING btree ("case_key");--> statement-breakpoint
CREATE INDEX "happenings_by_time" ON "happenings" USING btree ("at");--> statement-breakpoint
CREATE INDEX "happenings_by_evidence" ON "happenings" USING btree ("evidence_id");