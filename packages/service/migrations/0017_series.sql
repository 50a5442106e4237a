CREATE TABLE "series" (
	"lane" uuid NOT NULL,
	"href" text NOT NULL,
	"etag" text,
	"occurrences" jsonb NOT NULL,
	"next_at" timestamp with time zone,
	CONSTRAINT "series_lane_href_pk" PRIMARY KEY("lane","href")
);
--> statement-breakpoint
ALTER TABLE "series" ADD CONSTRAINT "series_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "series_next" ON "series" USING btree ("lane","next_at");--> statement-breakpoint
CREATE INDEX "pairs_object" ON "pairs" USING btree ("lane",split_part(href, '#', 1)) WHERE strpos(href, '#') > 0;