-- What stands in the way of a write is found by an index of its own: one look for name or UID read the whole of a calendar that the database
-- knew nothing of yet, and filling one took the square of its size.
CREATE OR REPLACE FUNCTION put_hosted(p_slug text, p_name text, p_uid text, p_hash text, p_text text, p_component text, p_starts bigint, p_ends bigint, p_private boolean, p_busy boolean, p_if text)
RETURNS TABLE (outcome text, "etag" text, other text) LANGUAGE plpgsql AS $$
#variable_conflict use_column
DECLARE
	target record;
	there record;
	refused text;
	said text;
BEGIN
	-- Writers of one calendar wait for each other here.
	UPDATE hosted_calendars SET revision = revision + 1 WHERE slug = p_slug RETURNING id, revision, holds INTO target;
	IF NOT FOUND THEN RETURN QUERY SELECT 'no calendar', null::text, null::text; RETURN; END IF;
	SELECT o.etag AS tag, o.uid AS uid, (SELECT h.name FROM hosted_objects h WHERE h.calendar = target.id AND h.uid = p_uid AND h.text IS NOT NULL AND h.name <> p_name) AS holder
		INTO there FROM (SELECT 1) one LEFT JOIN hosted_objects o ON o.calendar = target.id AND o.name = p_name AND o.text IS NOT NULL;
	IF there.tag IS NULL THEN
		IF p_text IS NULL OR p_if <> 'none' THEN refused := 'gone'; END IF;
	ELSIF p_if <> there.tag THEN
		refused := 'changed meanwhile';
		said := there.tag;
	END IF;
	IF refused IS NULL AND p_text IS NOT NULL THEN
		IF (p_component = 'VTODO') <> (target.holds = 'tasks') THEN refused := 'wrong component'; said := target.holds;
		ELSIF there.uid <> p_uid THEN refused := 'other uid'; said := there.uid;
		ELSIF there.holder IS NOT NULL THEN refused := 'uid elsewhere'; said := there.holder; END IF;
	END IF;
	IF refused IS NOT NULL THEN
		-- Nothing changed: programs that look by number are not to read everything again.
		UPDATE hosted_calendars SET revision = revision - 1 WHERE id = target.id;
		RETURN QUERY SELECT refused, CASE WHEN refused = 'changed meanwhile' THEN said END, CASE WHEN refused <> 'changed meanwhile' THEN said END;
		RETURN;
	END IF;
	IF p_text IS NULL THEN
		UPDATE hosted_objects o SET text = null, revision = target.revision, changed_at = now() WHERE o.calendar = target.id AND o.name = p_name;
		RETURN QUERY SELECT 'removed', null::text, null::text;
		RETURN;
	END IF;
	said := '"' || target.revision || '-' || p_hash || '"';
	INSERT INTO hosted_objects (calendar, name, uid, etag, text, component, starts, ends, is_private, is_busy, revision)
		VALUES (target.id, p_name, p_uid, said, p_text, p_component, p_starts, p_ends, p_private, p_busy, target.revision)
		ON CONFLICT (calendar, name) DO UPDATE SET uid = excluded.uid, etag = excluded.etag, text = excluded.text, component = excluded.component,
			starts = excluded.starts, ends = excluded.ends, is_private = excluded.is_private, is_busy = excluded.is_busy, revision = excluded.revision, changed_at = now();
	RETURN QUERY SELECT CASE WHEN there.tag IS NULL THEN 'made' ELSE 'changed' END, said, null::text;
END $$;
