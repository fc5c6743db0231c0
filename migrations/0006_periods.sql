DROP INDEX `rotation_records_shelf`;--> statement-breakpoint
-- 0 until what the beat of their release makes of the number is filled in (bringAlong.ts): SQL does not know the calendar.
ALTER TABLE `rotation_records` ADD `start_ms` integer NOT NULL DEFAULT 0;--> statement-breakpoint
ALTER TABLE `rotation_records` ADD `end_ms` integer NOT NULL DEFAULT 0;--> statement-breakpoint
CREATE INDEX `rotation_records_shelf` ON `rotation_records` (`shelf`,`offer`);
