-- The usual word, as the table has it.
UPDATE "lanes" SET "definition" = ("definition" - 'tell') || jsonb_build_object('notify', "definition"->'tell') WHERE "definition" ? 'tell';--> statement-breakpoint
UPDATE "lane_versions" SET "definition" = ("definition" - 'tell') || jsonb_build_object('notify', "definition"->'tell') WHERE "definition" ? 'tell';--> statement-breakpoint
UPDATE "drafts" SET "definition" = ("definition" - 'tell') || jsonb_build_object('notify', "definition"->'tell') WHERE "definition" ? 'tell';
