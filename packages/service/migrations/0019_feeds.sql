CREATE TABLE "feed_askers" (
	"feed" uuid NOT NULL,
	"day" date NOT NULL,
	"asker" text NOT NULL,
	"fetches" integer NOT NULL,
	CONSTRAINT "feed_askers_feed_day_asker_pk" PRIMARY KEY("feed","day","asker")
);
--> statement-breakpoint
CREATE TABLE "feed_objects" (
	"feed" uuid NOT NULL,
	"href" text NOT NULL,
	"etag" text,
	"text" text,
	"zones" jsonb DEFAULT '[]'::jsonb NOT NULL,
	"defined" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"starts" bigint,
	"ends" bigint,
	"look" integer NOT NULL,
	CONSTRAINT "feed_objects_feed_href_pk" PRIMARY KEY("feed","href")
);
--> statement-breakpoint
CREATE TABLE "feeds" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"slug" text NOT NULL,
	"secret_hash" text NOT NULL,
	"secret" text NOT NULL,
	"system" uuid NOT NULL,
	"calendar" text NOT NULL,
	"calendar_name" text NOT NULL,
	"lane" uuid,
	"settings" jsonb NOT NULL,
	"ends_at" timestamp with time zone,
	"revoked_at" timestamp with time zone,
	"revision" integer DEFAULT 0 NOT NULL,
	"cursor" text,
	"looks" integer DEFAULT 0 NOT NULL,
	"looked_at" timestamp with time zone,
	"trouble" text,
	"fetches" bigint DEFAULT 0 NOT NULL,
	"last_fetched_at" timestamp with time zone,
	"made_by" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "feeds_slug_unique" UNIQUE("slug"),
	CONSTRAINT "feeds_secret_hash_unique" UNIQUE("secret_hash")
);
--> statement-breakpoint
ALTER TABLE "feed_askers" ADD CONSTRAINT "feed_askers_feed_feeds_id_fk" FOREIGN KEY ("feed") REFERENCES "public"."feeds"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feed_objects" ADD CONSTRAINT "feed_objects_feed_feeds_id_fk" FOREIGN KEY ("feed") REFERENCES "public"."feeds"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feeds" ADD CONSTRAINT "feeds_system_systems_id_fk" FOREIGN KEY ("system") REFERENCES "public"."systems"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "feeds" ADD CONSTRAINT "feeds_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "feed_askers_day" ON "feed_askers" USING btree ("day");