ALTER TABLE "secrets" DROP COLUMN "moved_by";--> statement-breakpoint
ALTER TABLE "secrets" ADD COLUMN "moved_by" text[] DEFAULT '{}' NOT NULL;--> statement-breakpoint
ALTER TABLE "secrets" ADD COLUMN "moved_to" jsonb;
