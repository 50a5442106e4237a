ALTER TABLE "people" ADD COLUMN "provider_subject" text;--> statement-breakpoint
ALTER TABLE "people" ADD CONSTRAINT "people_provider_subject_unique" UNIQUE("provider_subject");