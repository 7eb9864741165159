CREATE TABLE "access_readings" (
	"server_id" text NOT NULL,
	"read_at" timestamp with time zone NOT NULL,
	"seen_at" timestamp with time zone NOT NULL,
	"access" jsonb NOT NULL,
	CONSTRAINT "access_readings_server_id_read_at_pk" PRIMARY KEY("server_id","read_at")
);
--> statement-breakpoint
CREATE TABLE "access_unread" (
	"server_id" text PRIMARY KEY NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"says" text NOT NULL
);
--> statement-breakpoint
CREATE TABLE "account_passwords" (
	"id" text PRIMARY KEY NOT NULL,
	"server_id" text NOT NULL,
	"user_name" text NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	"sent_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "account_tries" (
	"application_uri" text NOT NULL,
	"user_name" text NOT NULL,
	"signed_in_at" timestamp with time zone,
	"signed_in_by" text,
	"refused_at" timestamp with time zone,
	"code" text DEFAULT '' NOT NULL,
	"refusals" integer DEFAULT 0 NOT NULL,
	"mark" text DEFAULT '' NOT NULL,
	"same_refusals" integer DEFAULT 0 NOT NULL,
	CONSTRAINT "account_tries_application_uri_user_name_pk" PRIMARY KEY("application_uri","user_name")
);
--> statement-breakpoint
ALTER TABLE "checks" ADD COLUMN "writes" jsonb;--> statement-breakpoint
ALTER TABLE "secrets" ADD COLUMN "mark" text;--> statement-breakpoint
ALTER TABLE "access_readings" ADD CONSTRAINT "access_readings_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "access_unread" ADD CONSTRAINT "access_unread_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "account_passwords" ADD CONSTRAINT "account_passwords_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "account_passwords_by_account" ON "account_passwords" USING btree ("server_id","user_name");