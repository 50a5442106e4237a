ALTER TABLE "hosted_objects" ADD COLUMN "left_busy" bigint;--> statement-breakpoint
ALTER TABLE "hosted_objects" ADD COLUMN "left_public" bigint;--> statement-breakpoint
-- Readers who do not see everything are told of what went out of their sight, and of nothing that never was in it.
CREATE FUNCTION note_left_sight() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
	IF TG_ARGV[0] = 'busy' THEN NEW.left_busy := NEW.revision; ELSE NEW.left_public := NEW.revision; END IF;
	RETURN NEW;
END $$;--> statement-breakpoint
CREATE TRIGGER hosted_objects_left_busy BEFORE UPDATE ON "hosted_objects" FOR EACH ROW
	WHEN (OLD.text IS NOT NULL AND OLD.is_busy AND NOT (NEW.text IS NOT NULL AND NEW.is_busy)) EXECUTE FUNCTION note_left_sight('busy');--> statement-breakpoint
CREATE TRIGGER hosted_objects_left_public BEFORE UPDATE ON "hosted_objects" FOR EACH ROW
	WHEN (OLD.text IS NOT NULL AND (OLD.is_busy OR NOT OLD.is_private) AND NOT (NEW.text IS NOT NULL AND (NEW.is_busy OR NOT NEW.is_private)))
	EXECUTE FUNCTION note_left_sight('public');--> statement-breakpoint
-- What is not known to be public is private (RFC 5545, 3.8.1.3): a line CLASS that says anything else.
UPDATE "hosted_objects" SET is_private = true WHERE text IS NOT NULL AND NOT is_private
	AND regexp_replace(regexp_replace(text, E'\r?\n[ \t]', '', 'g'), E'(^|\n)CLASS(;[^:\r\n]*)?:[ \t]*PUBLIC[ \t]*(?=\r|\n|$)', '', 'gi') ~* E'(^|\n)CLASS[;:]';--> statement-breakpoint
-- Names of properties had the form {namespace}local, which a namespace with a brace made ambiguous: such ones are dropped.
UPDATE "hosted_calendars" SET properties = (
	SELECT coalesce(jsonb_object_agg(regexp_replace(p.key, '^\{([^}]*)\}(.*)$', '\2 \1'), p.value), '{}'::jsonb)
	FROM jsonb_each(properties) p WHERE p.key ~ '^\{[^}]*\}[^{}<>&"'' ]+$') WHERE properties <> '{}'::jsonb;--> statement-breakpoint
-- UIDs in feeds come from a secret now: everything is worked out once more at the next look.
UPDATE "feeds" SET "cursor" = null;--> statement-breakpoint
UPDATE "feed_objects" SET "etag" = null;
