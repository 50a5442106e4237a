ALTER TABLE "drafts" ADD COLUMN "made_by" text DEFAULT '' NOT NULL;--> statement-breakpoint
UPDATE "drafts" SET "made_by" = "edited_by";--> statement-breakpoint
-- Items that are left out as private are not named to everybody who reads lists.
UPDATE "verdicts" SET "label" = CASE WHEN "record_id" = '' THEN 'a private event' ELSE "record_id" END WHERE "reason" = 'private';
