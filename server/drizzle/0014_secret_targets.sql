ALTER TABLE "secrets" ADD COLUMN "target" jsonb;--> statement-breakpoint
ALTER TABLE "secrets" ADD COLUMN "moved_by" text;