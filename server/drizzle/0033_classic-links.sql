ALTER TABLE "applications" ADD COLUMN "speaks" text DEFAULT 'ua' NOT NULL;--> statement-breakpoint
ALTER TABLE "links" ADD COLUMN "classic" jsonb;