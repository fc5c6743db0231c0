CREATE TABLE `handled` (
	`kind` text NOT NULL,
	`number` integer NOT NULL,
	`player` text NOT NULL,
	`key` text NOT NULL,
	`request` text NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL,
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
INSERT INTO `handled` (`kind`, `number`, `player`, `key`, `request`, `at_ms`, `answer`)
SELECT 'purchase', `id`, `player`, `key`, `request`, `at_ms`, `answer` FROM `purchases`;
--> statement-breakpoint
INSERT INTO `handled` (`kind`, `number`, `player`, `key`, `request`, `at_ms`, `answer`)
SELECT 'act', `id`, `player`, `key`, `request`, `at_ms`, `answer` FROM `acts`;
--> statement-breakpoint
INSERT INTO `handled` (`kind`, `number`, `player`, `key`, `request`, `at_ms`, `answer`)
SELECT 'grant', `id`, `player`, `key`, `request`, `at_ms`, `answer` FROM `grants`;
--> statement-breakpoint
INSERT INTO `handled` (`kind`, `number`, `player`, `key`, `request`, `at_ms`, `answer`)
SELECT 'event', row_number() OVER (ORDER BY `rowid`), `player`, `id`, '', `at_ms`, `answer` FROM `events`;
--> statement-breakpoint
CREATE UNIQUE INDEX `handled_key` ON `handled` (`player`,`kind`,`key`);--> statement-breakpoint
CREATE UNIQUE INDEX `handled_number` ON `handled` (`kind`,`number`);--> statement-breakpoint
DROP TABLE `acts`;--> statement-breakpoint
DROP TABLE `events`;--> statement-breakpoint
DROP TABLE `grants`;--> statement-breakpoint
DROP TABLE `purchases`;
