CREATE INDEX "activity_at" ON "activity" USING btree ("at");--> statement-breakpoint
CREATE INDEX "activity_by" ON "activity" USING btree ("by","id");--> statement-breakpoint
CREATE INDEX "audits_at" ON "audits" USING btree ("at");--> statement-breakpoint
CREATE INDEX "holds_oldest" ON "holds" USING btree ("state","created_at","id");--> statement-breakpoint
CREATE INDEX "holds_created" ON "holds" USING btree ("created_at");--> statement-breakpoint
CREATE INDEX "journal_pair" ON "journal" USING btree ("pair","id");--> statement-breakpoint
CREATE INDEX "runs_newest" ON "runs" USING btree ("created_at","id");--> statement-breakpoint
CREATE INDEX "runs_state" ON "runs" USING btree ("state","created_at");