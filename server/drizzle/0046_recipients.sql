CREATE TABLE "recipients" (
	"id" text PRIMARY KEY NOT NULL,
	"name" text NOT NULL,
	"way" jsonb NOT NULL,
	"group_minutes" integer NOT NULL,
	"quiet" jsonb,
	"zone" text NOT NULL,
	"is_paused" boolean NOT NULL,
	"told_up_to" bigint NOT NULL,
	"last_told_at" timestamp with time zone,
	"fault" text,
	"failures" integer DEFAULT 0 NOT NULL,
	"next_try_at" timestamp with time zone
);
