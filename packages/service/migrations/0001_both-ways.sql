CREATE UNLOGGED TABLE "swept_events" (
	"sweep" uuid NOT NULL,
	"href" text NOT NULL,
	"etag" text,
	"begun_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "swept_events_sweep_href_pk" PRIMARY KEY("sweep","href")
);
--> statement-breakpoint
CREATE UNLOGGED TABLE "swept_records" (
	"sweep" uuid NOT NULL,
	"id" text NOT NULL,
	"begun_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "swept_records_sweep_id_pk" PRIMARY KEY("sweep","id")
);
--> statement-breakpoint
CREATE TABLE "intents" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"lane" uuid NOT NULL,
	"entry" jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "verdicts" ADD COLUMN "href" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "verdicts" DROP CONSTRAINT "verdicts_lane_record_id_moment_pk";--> statement-breakpoint
ALTER TABLE "holds" ALTER COLUMN "record_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "journal" ALTER COLUMN "record_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "pairs" ALTER COLUMN "record_id" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "verdicts" ADD CONSTRAINT "verdicts_lane_record_id_href_moment_pk" PRIMARY KEY("lane","record_id","href","moment");--> statement-breakpoint
ALTER TABLE "holds" ADD COLUMN "href" text;--> statement-breakpoint
ALTER TABLE "holds" ADD COLUMN "asked" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "holds" ADD COLUMN "choices" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "holds" ADD COLUMN "baseline" jsonb;--> statement-breakpoint
ALTER TABLE "journal" ADD COLUMN "href" text;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "version" text;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "tried" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "intents" ADD CONSTRAINT "intents_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "intents_lane" ON "intents" USING btree ("lane");--> statement-breakpoint
CREATE INDEX "pairs_uid" ON "pairs" USING btree ("lane","uid");--> statement-breakpoint
CREATE INDEX "pairs_unfinished" ON "pairs" USING btree ("lane") WHERE record_id is null;--> statement-breakpoint
UPDATE "journal" SET "changes" = (SELECT coalesce(jsonb_agg(c || '{"side":"event"}'::jsonb), '[]'::jsonb) FROM jsonb_array_elements("changes") AS c);
