CREATE TABLE "machine_locks" (
	"machine_id" text PRIMARY KEY NOT NULL,
	"server_id" text NOT NULL,
	"holder" text NOT NULL,
	"since" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "server_processes" (
	"id" text PRIMARY KEY NOT NULL,
	"host" text NOT NULL,
	"pid" integer NOT NULL,
	"began" text NOT NULL,
	"seen_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "checks" ADD COLUMN "server_id" text;--> statement-breakpoint
ALTER TABLE "issued" ADD COLUMN "for_line" text;--> statement-breakpoint
ALTER TABLE "order_lines" ADD COLUMN "server_id" text;--> statement-breakpoint
ALTER TABLE "work_orders" ADD COLUMN "server_id" text;--> statement-breakpoint
ALTER TABLE "machine_locks" ADD CONSTRAINT "machine_locks_server_id_server_processes_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."server_processes"("id") ON DELETE cascade ON UPDATE no action;