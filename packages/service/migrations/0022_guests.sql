CREATE TABLE "guest_log" (
	"id" bigserial PRIMARY KEY NOT NULL,
	"lane" uuid NOT NULL,
	"pair" uuid NOT NULL,
	"email" text NOT NULL,
	"what" text NOT NULL,
	"detail" text DEFAULT '' NOT NULL,
	"run" uuid,
	"at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
CREATE TABLE "guests" (
	"lane" uuid NOT NULL,
	"pair" uuid NOT NULL,
	"email" text NOT NULL,
	"name" text,
	"state" text NOT NULL,
	"told" jsonb,
	"invitation" jsonb,
	"method" text,
	"why" text DEFAULT '' NOT NULL,
	"uninvited" boolean DEFAULT false NOT NULL,
	"due_at" timestamp with time zone,
	"attempts" integer DEFAULT 0 NOT NULL,
	"trouble" text,
	"run" uuid,
	"sequence" integer DEFAULT 0 NOT NULL,
	"told_at" timestamp with time zone,
	"reply" text,
	"reply_sequence" integer DEFAULT -1 NOT NULL,
	"reply_stamp" timestamp with time zone,
	"reply_via" text,
	"comment" text,
	"proposal" jsonb,
	"reply_pending" boolean DEFAULT false NOT NULL,
	"updated_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "guests_pair_email_pk" PRIMARY KEY("pair","email")
);
--> statement-breakpoint
CREATE TABLE "mailboxes" (
	"system" uuid PRIMARY KEY NOT NULL,
	"validity" text NOT NULL,
	"uid" bigint NOT NULL,
	"read_at" timestamp with time zone DEFAULT now() NOT NULL
);
--> statement-breakpoint
ALTER TABLE "lanes" ADD COLUMN "invites_since" timestamp with time zone;--> statement-breakpoint
ALTER TABLE "guest_log" ADD CONSTRAINT "guest_log_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "guests" ADD CONSTRAINT "guests_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "mailboxes" ADD CONSTRAINT "mailboxes_system_systems_id_fk" FOREIGN KEY ("system") REFERENCES "public"."systems"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE INDEX "guest_log_pair" ON "guest_log" USING btree ("pair","id");--> statement-breakpoint
CREATE INDEX "guest_log_email" ON "guest_log" USING btree ("email","at");--> statement-breakpoint
CREATE INDEX "guest_log_run" ON "guest_log" USING btree ("run");--> statement-breakpoint
CREATE INDEX "guest_log_at" ON "guest_log" USING btree ("at");--> statement-breakpoint
CREATE INDEX "guests_waiting" ON "guests" USING btree ("lane","due_at") WHERE state in ('waiting', 'sending');--> statement-breakpoint
CREATE INDEX "guests_trouble" ON "guests" USING btree ("lane") WHERE state in ('doubtful', 'refused');