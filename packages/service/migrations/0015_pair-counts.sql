CREATE TABLE "lane_counts" (
	"lane" uuid PRIMARY KEY NOT NULL,
	"pairs" integer NOT NULL
);
--> statement-breakpoint
ALTER TABLE "lane_counts" ADD CONSTRAINT "lane_counts_lane_lanes_id_fk" FOREIGN KEY ("lane") REFERENCES "public"."lanes"("id") ON DELETE cascade ON UPDATE no action;--> statement-breakpoint
INSERT INTO "lane_counts" SELECT "lane", count(*) FROM "pairs" WHERE "state" NOT IN ('parted', 'removed') GROUP BY "lane";--> statement-breakpoint
CREATE FUNCTION count_pairs() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
  IF TG_OP = 'INSERT' THEN
    INSERT INTO lane_counts SELECT lane, count(*) FROM pairs_after WHERE state NOT IN ('parted', 'removed') GROUP BY lane ORDER BY lane
    ON CONFLICT (lane) DO UPDATE SET pairs = lane_counts.pairs + excluded.pairs;
  ELSIF TG_OP = 'DELETE' THEN
    UPDATE lane_counts SET pairs = lane_counts.pairs - gone.n
    FROM (SELECT lane, count(*) AS n FROM pairs_before WHERE state NOT IN ('parted', 'removed') GROUP BY lane) gone WHERE gone.lane = lane_counts.lane;
  ELSE
    INSERT INTO lane_counts SELECT lane, sum(n) FROM (
      SELECT lane, 1 AS n FROM pairs_after WHERE state NOT IN ('parted', 'removed')
      UNION ALL SELECT lane, -1 FROM pairs_before WHERE state NOT IN ('parted', 'removed')
    ) moved GROUP BY lane HAVING sum(n) <> 0 ORDER BY lane
    ON CONFLICT (lane) DO UPDATE SET pairs = lane_counts.pairs + excluded.pairs;
  END IF;
  RETURN NULL;
END $$;--> statement-breakpoint
CREATE TRIGGER pairs_counted_in AFTER INSERT ON "pairs" REFERENCING NEW TABLE AS pairs_after FOR EACH STATEMENT EXECUTE FUNCTION count_pairs();--> statement-breakpoint
CREATE TRIGGER pairs_counted_out AFTER DELETE ON "pairs" REFERENCING OLD TABLE AS pairs_before FOR EACH STATEMENT EXECUTE FUNCTION count_pairs();--> statement-breakpoint
CREATE TRIGGER pairs_counted_again AFTER UPDATE ON "pairs" REFERENCING OLD TABLE AS pairs_before NEW TABLE AS pairs_after FOR EACH STATEMENT EXECUTE FUNCTION count_pairs();
