ALTER TABLE "guests" RENAME COLUMN "told" TO "knows";--> statement-breakpoint
ALTER TABLE "guests" RENAME COLUMN "told_at" TO "sent_at";--> statement-breakpoint
UPDATE "guests" SET "state" = 'sent' WHERE "state" = 'told';--> statement-breakpoint
UPDATE "lanes" SET "definition" = jsonb_set("definition" #- '{invitations,tells}', '{invitations,shows}', "definition" #> '{invitations,tells}') WHERE "definition" #> '{invitations,tells}' IS NOT NULL;--> statement-breakpoint
UPDATE "lane_versions" SET "definition" = jsonb_set("definition" #- '{invitations,tells}', '{invitations,shows}', "definition" #> '{invitations,tells}') WHERE "definition" #> '{invitations,tells}' IS NOT NULL;
