CREATE TABLE "call_meters" (
	"system" uuid PRIMARY KEY NOT NULL,
	"month" text NOT NULL,
	"calls" integer DEFAULT 0 NOT NULL,
	"free_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "consents" (
	"state" text PRIMARY KEY NOT NULL,
	"system" uuid NOT NULL,
	"verifier" text NOT NULL,
	"redirect" text NOT NULL,
	"back" text NOT NULL,
	"by" text NOT NULL,
	"expires_at" timestamp with time zone NOT NULL
);
--> statement-breakpoint
CREATE UNLOGGED TABLE "recorded_calls" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"system" uuid NOT NULL,
	"at" timestamp with time zone NOT NULL,
	"method" text NOT NULL,
	"url" text NOT NULL,
	"status" integer,
	"took" integer NOT NULL,
	"sent" integer NOT NULL,
	"received" integer NOT NULL,
	"trouble" text
);
--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "tokens" text;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "authorised_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "checked_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "lapsed_at" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "lapsed_reason" text;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "described" jsonb;--> statement-breakpoint
ALTER TABLE "systems" ADD COLUMN "drift" jsonb DEFAULT '[]'::jsonb NOT NULL;--> statement-breakpoint
ALTER TABLE "call_meters" ADD CONSTRAINT "call_meters_system_systems_id_fk" FOREIGN KEY ("system") REFERENCES "public"."systems"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "consents" ADD CONSTRAINT "consents_system_systems_id_fk" FOREIGN KEY ("system") REFERENCES "public"."systems"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "recorded_calls_system" ON "recorded_calls" USING btree ("system","id");