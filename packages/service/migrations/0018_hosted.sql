CREATE TABLE "device_passwords" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"person" uuid NOT NULL,
	"name" text NOT NULL,
	"hash" text NOT NULL,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	"last_used_at" timestamp with time zone,
	"agent" text DEFAULT '' NOT NULL,
	CONSTRAINT "device_passwords_hash_unique" UNIQUE("hash")
);
--> statement-breakpoint
CREATE TABLE "hosted_calendars" (
	"id" uuid PRIMARY KEY DEFAULT gen_random_uuid() NOT NULL,
	"slug" text NOT NULL,
	"name" text NOT NULL,
	"colour" text,
	"description" text DEFAULT '' NOT NULL,
	"timezone" text,
	"properties" jsonb DEFAULT '{}'::jsonb NOT NULL,
	"holds" text DEFAULT 'events' NOT NULL,
	"revision" bigint DEFAULT 0 NOT NULL,
	"forgotten" bigint DEFAULT 0 NOT NULL,
	"epoch" uuid DEFAULT gen_random_uuid() NOT NULL,
	"owner" uuid,
	"created_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "hosted_calendars_slug_unique" UNIQUE("slug")
);
--> statement-breakpoint
CREATE TABLE "hosted_objects" (
	"calendar" uuid NOT NULL,
	"name" text NOT NULL,
	"uid" text NOT NULL,
	"etag" text NOT NULL,
	"text" text,
	"component" text NOT NULL,
	"starts" bigint,
	"ends" bigint,
	"is_private" boolean DEFAULT false NOT NULL,
	"is_busy" boolean DEFAULT true NOT NULL,
	"revision" bigint NOT NULL,
	"changed_at" timestamp with time zone DEFAULT now() NOT NULL,
	CONSTRAINT "hosted_objects_calendar_name_pk" PRIMARY KEY("calendar","name")
);
--> statement-breakpoint
CREATE TABLE "hosted_rights" (
	"calendar" uuid NOT NULL,
	"person" uuid,
	"role" text,
	"may" text NOT NULL
);
--> statement-breakpoint
ALTER TABLE "device_passwords" ADD CONSTRAINT "device_passwords_person_people_id_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hosted_calendars" ADD CONSTRAINT "hosted_calendars_owner_people_id_fk" FOREIGN KEY ("owner") REFERENCES "public"."people"("id") ON DELETE set null ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hosted_objects" ADD CONSTRAINT "hosted_objects_calendar_hosted_calendars_id_fk" FOREIGN KEY ("calendar") REFERENCES "public"."hosted_calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hosted_rights" ADD CONSTRAINT "hosted_rights_calendar_hosted_calendars_id_fk" FOREIGN KEY ("calendar") REFERENCES "public"."hosted_calendars"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
ALTER TABLE "hosted_rights" ADD CONSTRAINT "hosted_rights_person_people_id_fk" FOREIGN KEY ("person") REFERENCES "public"."people"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
CREATE UNIQUE INDEX "hosted_objects_revision" ON "hosted_objects" USING btree ("calendar","revision");--> statement-breakpoint
CREATE UNIQUE INDEX "hosted_objects_uid" ON "hosted_objects" USING btree ("calendar","uid") WHERE text is not null;--> statement-breakpoint
CREATE INDEX "hosted_objects_time" ON "hosted_objects" USING btree ("calendar","starts") WHERE text is not null;--> statement-breakpoint
CREATE UNIQUE INDEX "hosted_rights_person" ON "hosted_rights" USING btree ("calendar","person") WHERE person is not null;--> statement-breakpoint
CREATE UNIQUE INDEX "hosted_rights_role" ON "hosted_rights" USING btree ("calendar","role") WHERE role is not null;
--> statement-breakpoint
-- One hosted system for the installation, whatever processes start at once.
CREATE UNIQUE INDEX "systems_hosted" ON "systems" USING btree ("kind") WHERE kind = 'hosted';--> statement-breakpoint
-- The only way to write into a hosted calendar: conditions, numbering and notice in one step, one writer of a calendar at a
-- time. p_text null deletes. p_if: the ETag that must be there, 'none' for nothing, null for whatever.
CREATE FUNCTION put_hosted(p_slug text, p_name text, p_uid text, p_hash text, p_text text, p_component text, p_starts bigint, p_ends bigint, p_private boolean, p_busy boolean, p_if text, p_by text)
RETURNS TABLE (outcome text, "etag" text, other text) LANGUAGE plpgsql AS $$
#variable_conflict use_column
DECLARE
	into_calendar record;
	old record;
	holder text;
	fresh text;
BEGIN
	SELECT id, revision + 1 AS next, holds INTO into_calendar FROM hosted_calendars WHERE slug = p_slug FOR UPDATE;
	IF NOT FOUND THEN RETURN QUERY SELECT 'no calendar', null::text, null::text; RETURN; END IF;
	SELECT o.etag AS tag, o.uid AS uid, o.component AS component INTO old FROM hosted_objects o WHERE o.calendar = into_calendar.id AND o.name = p_name AND o.text IS NOT NULL;
	IF FOUND THEN
		IF p_if = 'none' OR p_if <> old.tag THEN RETURN QUERY SELECT 'changed meanwhile', old.tag, null::text; RETURN; END IF;
	ELSE
		IF p_text IS NULL OR p_if <> 'none' THEN RETURN QUERY SELECT 'gone', null::text, null::text; RETURN; END IF;
	END IF;
	IF p_text IS NULL THEN
		UPDATE hosted_objects o SET text = null, revision = into_calendar.next, changed_at = now() WHERE o.calendar = into_calendar.id AND o.name = p_name;
	ELSE
		IF (p_component = 'VTODO') <> (into_calendar.holds = 'tasks') THEN RETURN QUERY SELECT 'wrong component', null::text, into_calendar.holds; RETURN; END IF;
		IF old.uid IS NOT NULL AND old.uid <> p_uid THEN RETURN QUERY SELECT 'other uid', old.tag, old.uid; RETURN; END IF;
		SELECT o.name INTO holder FROM hosted_objects o WHERE o.calendar = into_calendar.id AND o.uid = p_uid AND o.text IS NOT NULL AND o.name <> p_name;
		IF FOUND THEN RETURN QUERY SELECT 'uid elsewhere', null::text, holder; RETURN; END IF;
		fresh := '"' || into_calendar.next || '-' || p_hash || '"';
		INSERT INTO hosted_objects (calendar, name, uid, etag, text, component, starts, ends, is_private, is_busy, revision)
			VALUES (into_calendar.id, p_name, p_uid, fresh, p_text, p_component, p_starts, p_ends, p_private, p_busy, into_calendar.next)
			ON CONFLICT (calendar, name) DO UPDATE SET uid = excluded.uid, etag = excluded.etag, text = excluded.text, component = excluded.component,
				starts = excluded.starts, ends = excluded.ends, is_private = excluded.is_private, is_busy = excluded.is_busy, revision = excluded.revision, changed_at = now();
	END IF;
	UPDATE hosted_calendars SET revision = into_calendar.next WHERE id = into_calendar.id;
	PERFORM pg_notify('monsoon_hosted', p_slug || ' ' || p_by);
	RETURN QUERY SELECT CASE WHEN p_text IS NULL THEN 'removed' WHEN old.tag IS NULL THEN 'made' ELSE 'changed' END, fresh, null::text;
END $$;
