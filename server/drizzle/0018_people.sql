CREATE TABLE "recovery_codes" (
	"person" text NOT NULL,
	"code_hash" text NOT NULL,
	CONSTRAINT "recovery_codes_person_code_hash_pk" PRIMARY KEY("person","code_hash")
);
--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "must_change_password" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "disabled_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "last_signed_in_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "second_factor_since" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "last_code_step" integer;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD COLUMN "id" text DEFAULT gen_random_uuid()::text NOT NULL;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD COLUMN "since" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD COLUMN "seen_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD COLUMN "address" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD COLUMN "browser" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "recovery_codes" ADD CONSTRAINT "recovery_codes_person_people_name_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("name") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sign_ins" ADD CONSTRAINT "sign_ins_id_unique" UNIQUE("id");