CREATE TABLE `channel_moves` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`channel` text NOT NULL,
	`release` integer NOT NULL,
	`at_ms` integer NOT NULL,
	`scheduled` integer NOT NULL,
	`reached_ms` integer,
	`note` text NOT NULL,
	`made_ms` integer NOT NULL,
	`made_by` text NOT NULL,
	`ended_ms` integer,
	`ended_by` text,
	FOREIGN KEY (`release`) REFERENCES `releases`(`number`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE INDEX `channel_moves_channel` ON `channel_moves` (`channel`,`at_ms`);--> statement-breakpoint
CREATE TABLE `rotation_records` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`shelf` text NOT NULL,
	`period` integer NOT NULL,
	`kind` text NOT NULL,
	`offer` text NOT NULL,
	`why` text NOT NULL,
	`made_ms` integer NOT NULL,
	`made_by` text NOT NULL,
	`ended_ms` integer,
	`ended_by` text
) STRICT;
--> statement-breakpoint
CREATE INDEX `rotation_records_shelf` ON `rotation_records` (`shelf`,`period`);--> statement-breakpoint
INSERT INTO `channel_moves` (`channel`, `release`, `at_ms`, `scheduled`, `reached_ms`, `note`, `made_ms`, `made_by`)
SELECT `name`, `release`, `changed_ms`, 0, `changed_ms`, '', `changed_ms`, `changed_by` FROM `channels`;
