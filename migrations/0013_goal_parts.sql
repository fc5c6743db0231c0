CREATE TABLE `__new_counters` (
	`player` text NOT NULL,
	`key` text NOT NULL,
	`count` real NOT NULL,
	`start_ms` integer NOT NULL,
	PRIMARY KEY(`player`, `key`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
INSERT INTO `__new_counters`("player", "key", "count", "start_ms") SELECT "player", "key", "count", "start_ms" FROM `counters`;--> statement-breakpoint
DROP TABLE `counters`;--> statement-breakpoint
ALTER TABLE `__new_counters` RENAME TO `counters`;--> statement-breakpoint
CREATE TABLE `__new_team_counters` (
	`team` text NOT NULL,
	`key` text NOT NULL,
	`count` real NOT NULL,
	`start_ms` integer NOT NULL,
	PRIMARY KEY(`team`, `key`),
	FOREIGN KEY (`team`) REFERENCES `teams`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
INSERT INTO `__new_team_counters`("team", "key", "count", "start_ms") SELECT "team", "key", "count", "start_ms" FROM `team_counters`;--> statement-breakpoint
DROP TABLE `team_counters`;--> statement-breakpoint
ALTER TABLE `__new_team_counters` RENAME TO `team_counters`;