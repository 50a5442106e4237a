-- One column for how a series repeats, wherever its baseline has the rule: one that no field holds was shown on its first day alone.
-- In one statement, so that the table is rewritten once.
ALTER TABLE "pairs" DROP COLUMN "last_day",
	ADD COLUMN "last_day" text GENERATED ALWAYS AS (case when coalesce(baseline #>> '{event,recurrence}', baseline #>> '{record,recurrence}', baseline ->> 'recurrence') is not null then '9999-12-31' else greatest(left(baseline #>> '{record,when,end}', 10), left(baseline #>> '{event,when,end}', 10)) end) STORED,
	ADD COLUMN "recurrence" text GENERATED ALWAYS AS (coalesce(baseline #>> '{event,recurrence}', baseline #>> '{record,recurrence}', baseline ->> 'recurrence')) STORED;
