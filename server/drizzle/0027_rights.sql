CREATE TABLE "rights_nodes" (
	"snapshot_id" text NOT NULL,
	"node_id" text NOT NULL,
	"path" text[] NOT NULL,
	"node_class" text NOT NULL,
	"access_level" smallint,
	"user_access_level" smallint,
	"user_permissions" bigint,
	"access_restrictions" integer,
	"user_write_mask" bigint,
	"user_executable" boolean,
	CONSTRAINT "rights_nodes_snapshot_id_node_id_pk" PRIMARY KEY("snapshot_id","node_id")
);
--> statement-breakpoint
CREATE TABLE "rights_snapshots" (
	"id" text PRIMARY KEY NOT NULL,
	"server_id" text NOT NULL,
	"user_name" text NOT NULL,
	"link_id" text NOT NULL,
	"state" text DEFAULT 'waiting' NOT NULL,
	"mode" text,
	"nodes" integer DEFAULT 0 NOT NULL,
	"says" text,
	"asked_by" text NOT NULL,
	"asked_at" timestamp with time zone DEFAULT now() NOT NULL,
	"ended_at" timestamp with time zone,
	"process_id" text
);
--> statement-breakpoint
ALTER TABLE "rights_nodes" ADD CONSTRAINT "rights_nodes_snapshot_id_rights_snapshots_id_fk" FOREIGN KEY ("snapshot_id") REFERENCES "public"."rights_snapshots"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "rights_snapshots" ADD CONSTRAINT "rights_snapshots_server_id_applications_id_fk" FOREIGN KEY ("server_id") REFERENCES "public"."applications"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "rights_snapshots_by_server" ON "rights_snapshots" USING btree ("server_id","asked_at");