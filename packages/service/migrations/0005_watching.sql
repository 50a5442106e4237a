CREATE TABLE "audits" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"lane" uuid NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"cause" text NOT NULL,
	"counts" jsonb NOT NULL,
	"differences" integer NOT NULL,
	"adds_up" boolean NOT NULL
);
--> statement-breakpoint
CREATE TABLE "hooks" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"name" text NOT NULL,
	"url" text NOT NULL,
	"occasions" jsonb NOT NULL,
	"secret" text NOT NULL,
	"last_at" timestamp with time zone,
	"last_outcome" text,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "tellings" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"cause" text NOT NULL,
	"to" text NOT NULL,
	"occasion" text NOT NULL,
	"subject" text NOT NULL,
	"text" text NOT NULL,
	"path" text NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"sent_at" timestamp with time zone,
	"over_at" timestamp with time zone
);
--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "told" jsonb;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "digest_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "lanes" ADD COLUMN "audited_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "journal" ADD COLUMN "changed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "pairs" ADD COLUMN "attempted" jsonb;--> statement-breakpoint
ALTER TABLE "audits" ADD CONSTRAINT "audits_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "audits_lane" ON "audits" USING btree ("lane","id");--> statement-breakpoint
CREATE UNIQUE INDEX "tellings_open" ON "tellings" USING btree ("cause","to") WHERE over_at is null;--> statement-breakpoint
CREATE INDEX "tellings_unsent" ON "tellings" USING btree ("to") WHERE sent_at is null;--> statement-breakpoint
CREATE INDEX "journal_at" ON "journal" USING btree ("at");