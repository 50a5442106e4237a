CREATE TABLE "processes" (
	"process" integer PRIMARY KEY NOT NULL,
	"beat_at" timestamp with time zone DEFAULT now() NOT NULL,
	"silent_at" timestamp with time zone
);
--> statement-breakpoint
CREATE TABLE "lane_fences" (
	"lane" uuid PRIMARY KEY NOT NULL,
	"fence" bigint NOT NULL
);
--> statement-breakpoint
ALTER TABLE "lane_fences" ADD CONSTRAINT "lane_fences_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;