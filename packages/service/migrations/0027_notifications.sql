-- The usual word.
ALTER TABLE "tellings" RENAME TO "notifications";--> statement-breakpoint
ALTER SEQUENCE "tellings_id_seq" RENAME TO "notifications_id_seq";--> statement-breakpoint
ALTER INDEX "tellings_pkey" RENAME TO "notifications_pkey";--> statement-breakpoint
ALTER INDEX "tellings_open" RENAME TO "notifications_open";--> statement-breakpoint
ALTER INDEX "tellings_unsent" RENAME TO "notifications_unsent";--> statement-breakpoint
ALTER TABLE "people" RENAME COLUMN "told" TO "notifications";
