CREATE TABLE "drafts" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"lane" uuid,
	"lane_version" integer,
	"slug" text NOT NULL,
	"definition" jsonb NOT NULL,
	"version" integer DEFAULT 1 NOT NULL,
	"edited_by" text NOT NULL,
	"edited_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "drafts_lane_unique" UNIQUE("lane")
);
--> statement-breakpoint
ALTER TABLE "lane_versions" ADD COLUMN "file" text;--> statement-breakpoint
ALTER TABLE "drafts" ADD CONSTRAINT "drafts_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;