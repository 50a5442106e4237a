-- States, kinds and choices get the words that people read elsewhere. What was stored under the earlier words is renamed.
CREATE OR REPLACE FUNCTION count_pairs() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO lane_counts SELECT lane, count(*) FROM pairs_after WHERE state NOT IN ('unlinked', 'removed') GROUP BY lane ORDER BY lane
    ON CONFLICT (lane) DO UPDATE SET pairs = lane_counts.pairs + excluded.pairs;
  ELSIF TG_OP = 'DELETE' THEN
    UPDATE lane_counts SET pairs = lane_counts.pairs - gone.n
    FROM (SELECT lane, count(*) AS n FROM pairs_before WHERE state NOT IN ('unlinked', 'removed') GROUP BY lane) gone WHERE gone.lane = lane_counts.lane;
  ELSE
    INSERT INTO lane_counts SELECT lane, sum(n) FROM (
      SELECT lane, 1 AS n FROM pairs_after WHERE state NOT IN ('unlinked', 'removed')
      UNION ALL SELECT lane, -1 FROM pairs_before WHERE state NOT IN ('unlinked', 'removed')
    ) moved GROUP BY lane HAVING sum(n) <> 0 ORDER BY lane
    ON CONFLICT (lane) DO UPDATE SET pairs = lane_counts.pairs + excluded.pairs;
  END IF;
  RETURN NULL;
END $$;--> statement-breakpoint
ALTER TABLE "pairs" DISABLE TRIGGER "pairs_counted_again";--> statement-breakpoint
UPDATE "pairs" SET "state" = CASE "state" WHEN 'making' THEN 'creating' WHEN 'in doubt' THEN 'unconfirmed' WHEN 'agreed' THEN 'in sync' WHEN 'parted' THEN 'unlinked' END
WHERE "state" IN ('making', 'in doubt', 'agreed', 'parted');--> statement-breakpoint
ALTER TABLE "pairs" ENABLE TRIGGER "pairs_counted_again";--> statement-breakpoint
UPDATE "journal" SET "kind" = CASE "kind" WHEN 'make' THEN 'create' WHEN 'make record' THEN 'create record' WHEN 'part' THEN 'unlink' END
WHERE "kind" IN ('make', 'make record', 'part');--> statement-breakpoint
UPDATE "intents" SET "entry" = jsonb_set("entry", '{kind}', CASE "entry"->>'kind' WHEN 'make' THEN '"create"' WHEN 'make record' THEN '"create record"' ELSE '"unlink"' END::jsonb)
WHERE "entry"->>'kind' IN ('make', 'make record', 'part');--> statement-breakpoint
UPDATE "runs" SET "counts" = ("counts" - 'made' - 'agreed' - 'parted')
  || jsonb_build_object('created', coalesce("counts"->'made', '0'), 'inSync', coalesce("counts"->'agreed', '0'), 'unlinked', coalesce("counts"->'parted', '0'))
WHERE "counts" ? 'made';--> statement-breakpoint
UPDATE "audits" SET "counts" = ("counts" - 'agreed') || jsonb_build_object('inSync', "counts"->'agreed') WHERE "counts" ? 'agreed';--> statement-breakpoint
UPDATE "holds" SET
  "choices" = replace(replace(replace("choices"::text, '"part"', '"unlink"'), '"make again"', '"create again"'), '"make new"', '"create new"')::jsonb,
  "choice" = CASE "choice" WHEN 'part' THEN 'unlink' WHEN 'make again' THEN 'create again' WHEN 'make new' THEN 'create new' ELSE "choice" END;--> statement-breakpoint
UPDATE "verdicts" SET "value" = 'unlinked' WHERE "reason" = 'no longer followed' AND "value" = 'parted';--> statement-breakpoint
UPDATE "lanes" SET "definition" = jsonb_set("definition", '{departures,eventDeleted}', CASE "definition"#>>'{departures,eventDeleted}' WHEN 'part' THEN '"unlink"' ELSE '"create again"' END::jsonb)
WHERE "definition"#>>'{departures,eventDeleted}' IN ('part', 'make again');--> statement-breakpoint
UPDATE "lane_versions" SET "definition" = jsonb_set("definition", '{departures,eventDeleted}', CASE "definition"#>>'{departures,eventDeleted}' WHEN 'part' THEN '"unlink"' ELSE '"create again"' END::jsonb)
WHERE "definition"#>>'{departures,eventDeleted}' IN ('part', 'make again');--> statement-breakpoint
UPDATE "drafts" SET "definition" = jsonb_set("definition", '{departures,eventDeleted}', CASE "definition"#>>'{departures,eventDeleted}' WHEN 'part' THEN '"unlink"' ELSE '"create again"' END::jsonb)
WHERE "definition"#>>'{departures,eventDeleted}' IN ('part', 'make again');
