CREATE TABLE "activity" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"at" timestamp with time zone DEFAULT now() NOT NULL,
	"by" text NOT NULL,
	"via" text NOT NULL,
	"what" text NOT NULL,
	"of" text NOT NULL,
	"detail" text NOT NULL,
	"outcome" text NOT NULL,
	"lane" text
);
--> statement-breakpoint
CREATE TABLE "sign_in_failures" (
	"email" text PRIMARY KEY NOT NULL,
	"failures" integer NOT NULL,
	"until" timestamp with time zone,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "installation" (
	"id" integer PRIMARY KEY DEFAULT 1 NOT NULL,
	"paused_at" timestamp with time zone,
	"paused_by" text,
	"paused_why" text,
	"settings" jsonb DEFAULT '{}'::jsonb NOT NULL
);
--> statement-breakpoint
ALTER TABLE "people" ALTER COLUMN "password_hash" DROP NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "role" text DEFAULT 'administrator' NOT NULL;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "disabled_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "last_seen_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "id" uuid DEFAULT gen_random_uuid() NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "agent" text DEFAULT '' NOT NULL;--> statement-breakpoint
ALTER TABLE "sessions" ADD COLUMN "last_used_at" timestamp with time zone DEFAULT now() NOT NULL;--> statement-breakpoint
ALTER TABLE "tokens" ADD COLUMN "expires_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "lanes" ADD COLUMN "owner" uuid;--> statement-breakpoint
CREATE INDEX "activity_lane" ON "activity" USING btree ("lane","id");--> statement-breakpoint
ALTER TABLE "lanes" ADD CONSTRAINT "lanes_owner_people_id_fk" FOREIGN KEY ("owner") REFERENCES "public"."people"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "sessions" ADD CONSTRAINT "sessions_id_unique" UNIQUE("id");--> statement-breakpoint
INSERT INTO "installation" ("id") VALUES (1) ON CONFLICT DO NOTHING;--> statement-breakpoint
CREATE FUNCTION "activity_stays"() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'DELETE' AND current_setting('monsoon.retention', true) = 'on' THEN
    RETURN OLD;
  END IF;
  RAISE EXCEPTION 'the activity log is append-only';
END $$;--> statement-breakpoint
CREATE TRIGGER "activity_stays" BEFORE UPDATE OR DELETE ON "activity" FOR EACH ROW EXECUTE FUNCTION "activity_stays"();
