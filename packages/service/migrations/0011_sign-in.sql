-- What was counted by address alone says nothing of where it came from.
DELETE FROM "sign_in_failures";--> statement-breakpoint
ALTER TABLE "sign_in_failures" DROP CONSTRAINT "sign_in_failures_pkey";--> statement-breakpoint
ALTER TABLE "sign_in_failures" ADD COLUMN "source" text NOT NULL;--> statement-breakpoint
ALTER TABLE "sign_in_failures" ADD CONSTRAINT "sign_in_failures_email_source_pk" PRIMARY KEY("email","source");--> statement-breakpoint
ALTER TABLE "people" ADD COLUMN "password_temporary" boolean DEFAULT false NOT NULL;--> statement-breakpoint
ALTER TABLE "consents" ADD COLUMN "via" text DEFAULT 'browser' NOT NULL;--> statement-breakpoint
ALTER TABLE "consents" ADD COLUMN "browser" text;
