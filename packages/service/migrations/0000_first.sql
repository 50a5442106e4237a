CREATE TABLE "idempotency" (
	"key" text PRIMARY KEY NOT NULL,
	"request" text NOT NULL,
	"status" text NOT NULL,
	"answer" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "people" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"email" text NOT NULL,
	"name" text NOT NULL,
	"password_hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "people_email_unique" UNIQUE("email")
);
--> statement-breakpoint
CREATE TABLE "sessions" (
	"hash" text PRIMARY KEY NOT NULL,
	"person" uuid NOT NULL,
	"expires_at" timestamp with time zone NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tokens" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"person" uuid NOT NULL,
	"name" text NOT NULL,
	"hash" text NOT NULL,
	"may" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_used_at" timestamp with time zone,
	CONSTRAINT "tokens_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "workers" (
	"worker" text PRIMARY KEY NOT NULL,
	"life" integer NOT NULL
);
--> statement-breakpoint
CREATE TABLE "cursors" (
	"lane" uuid NOT NULL,
	"side" text NOT NULL,
	"cursor" text NOT NULL,
	"moved_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "cursors_lane_side_pk" PRIMARY KEY("lane","side")
);
--> statement-breakpoint
CREATE TABLE "lane_versions" (
	"lane" uuid NOT NULL,
	"version" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"made_by" text NOT NULL,
	"made_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "lane_versions_lane_version_pk" PRIMARY KEY("lane","version")
);
--> statement-breakpoint
CREATE TABLE "lanes" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"slug" text NOT NULL,
	"version" integer NOT NULL,
	"definition" jsonb NOT NULL,
	"state" text NOT NULL,
	"records_system" uuid NOT NULL,
	"calendar_system" uuid NOT NULL,
	"calendar_name" text NOT NULL,
	"failures" integer DEFAULT 0 NOT NULL,
	"trouble" text,
	"swept_version" integer,
	"swept_at" timestamp with time zone,
	"last_run_at" timestamp with time zone,
	"next_run_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "lanes_slug_unique" UNIQUE("slug")
);
--> statement-breakpoint
CREATE TABLE "systems" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"slug" text NOT NULL,
	"name" text NOT NULL,
	"kind" text NOT NULL,
	"settings" jsonb NOT NULL,
	"secrets" text NOT NULL,
	"health_state" text DEFAULT 'unknown' NOT NULL,
	"health_detail" text DEFAULT '' NOT NULL,
	"health_at" timestamp with time zone,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "systems_slug_unique" UNIQUE("slug")
);
--> statement-breakpoint
CREATE TABLE "verdicts" (
	"lane" uuid NOT NULL,
	"record_id" text NOT NULL,
	"moment" text NOT NULL,
	"label" text NOT NULL,
	"reason" text NOT NULL,
	"condition" text NOT NULL,
	"value" text NOT NULL,
	"recheck_at" timestamp with time zone,
	"attempts" integer DEFAULT 0 NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "verdicts_lane_record_id_moment_pk" PRIMARY KEY("lane","record_id","moment")
);
--> statement-breakpoint
CREATE TABLE "holds" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"lane" uuid NOT NULL,
	"pair" uuid NOT NULL,
	"record_id" text NOT NULL,
	"moment" text NOT NULL,
	"label" text NOT NULL,
	"question" text NOT NULL,
	"cause" text NOT NULL,
	"record" jsonb NOT NULL,
	"event" jsonb NOT NULL,
	"state" text DEFAULT 'open' NOT NULL,
	"choice" text,
	"settled_by" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "journal" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"run" uuid NOT NULL,
	"lane" uuid NOT NULL,
	"lane_version" integer NOT NULL,
	"pair" uuid NOT NULL,
	"record_id" text NOT NULL,
	"moment" text NOT NULL,
	"label" text NOT NULL,
	"kind" text NOT NULL,
	"cause" text NOT NULL,
	"changes" jsonb NOT NULL,
	"notes" jsonb NOT NULL,
	"removed" text,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "pairs" (
	"id" uuid PRIMARY KEY NOT NULL,
	"lane" uuid NOT NULL,
	"record_id" text NOT NULL,
	"moment" text NOT NULL,
	"uid" text NOT NULL,
	"href" text,
	"etag" text,
	"state" text NOT NULL,
	"baseline" jsonb,
	"label" text NOT NULL,
	"lane_version" integer NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "runs" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"lane" uuid NOT NULL,
	"lane_version" integer NOT NULL,
	"cause" text NOT NULL,
	"scope" text NOT NULL,
	"state" text NOT NULL,
	"reason" text,
	"counts" jsonb NOT NULL,
	"planned" integer DEFAULT 0 NOT NULL,
	"done" integer DEFAULT 0 NOT NULL,
	"damage" jsonb,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"started_at" timestamp with time zone,
	"ended_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_person_people_id_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "tokens" ADD CONSTRAINT "tokens_person_people_id_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "cursors" ADD CONSTRAINT "cursors_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "lane_versions" ADD CONSTRAINT "lane_versions_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "lanes" ADD CONSTRAINT "lanes_records_system_systems_id_fk" FOREIGN KEY ("records_system") REFERENCES "public"."systems"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "lanes" ADD CONSTRAINT "lanes_calendar_system_systems_id_fk" FOREIGN KEY ("calendar_system") REFERENCES "public"."systems"("id") ON DELETE no action ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "verdicts" ADD CONSTRAINT "verdicts_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "holds" ADD CONSTRAINT "holds_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "journal" ADD CONSTRAINT "journal_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "pairs" ADD CONSTRAINT "pairs_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "runs" ADD CONSTRAINT "runs_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "verdicts_recheck" ON "verdicts" USING btree ("lane","recheck_at");--> statement-breakpoint
CREATE INDEX "holds_open" ON "holds" USING btree ("state","lane");--> statement-breakpoint
CREATE INDEX "holds_pair" ON "holds" USING btree ("pair","state");--> statement-breakpoint
CREATE INDEX "journal_run" ON "journal" USING btree ("run","id");--> statement-breakpoint
CREATE INDEX "journal_item" ON "journal" USING btree ("lane","record_id","id");--> statement-breakpoint
CREATE INDEX "journal_lane" ON "journal" USING btree ("lane","id");--> statement-breakpoint
CREATE UNIQUE INDEX "pairs_item" ON "pairs" USING btree ("lane","record_id","moment");--> statement-breakpoint
CREATE INDEX "pairs_href" ON "pairs" USING btree ("lane","href");--> statement-breakpoint
CREATE INDEX "pairs_state" ON "pairs" USING btree ("lane","state");--> statement-breakpoint
CREATE INDEX "runs_lane" ON "runs" USING btree ("lane","created_at");