CREATE TABLE `earnings` (
	`sum` text NOT NULL,
	`start_ms` integer NOT NULL,
	`who` text NOT NULL,
	`units` integer NOT NULL,
	PRIMARY KEY(`sum`, `start_ms`, `who`)
) STRICT;
--> statement-breakpoint
CREATE TABLE `team_counters` (
	`team` text NOT NULL,
	`key` text NOT NULL,
	`count` integer NOT NULL,
	`start_ms` integer NOT NULL,
	PRIMARY KEY(`team`, `key`),
	FOREIGN KEY (`team`) REFERENCES `teams`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `team_handled` (
	`number` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`team` text NOT NULL,
	`key` text NOT NULL,
	`request` text NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL
) STRICT;
--> statement-breakpoint
CREATE UNIQUE INDEX `team_handled_key` ON `team_handled` (`team`,`key`);--> statement-breakpoint
CREATE TABLE `team_holdings` (
	`team` text NOT NULL,
	`asset` text NOT NULL,
	`units` integer NOT NULL,
	PRIMARY KEY(`team`, `asset`),
	FOREIGN KEY (`team`) REFERENCES `teams`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `team_members` (
	`player` text NOT NULL,
	`kind` text NOT NULL,
	`team` text NOT NULL,
	`joined_ms` integer NOT NULL,
	PRIMARY KEY(`player`, `kind`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action,
	FOREIGN KEY (`team`) REFERENCES `teams`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE INDEX `team_members_team` ON `team_members` (`team`,`player`);--> statement-breakpoint
CREATE TABLE `teams` (
	`id` text PRIMARY KEY NOT NULL,
	`kind` text NOT NULL,
	`name` text NOT NULL,
	`started_ms` integer NOT NULL
) STRICT;
--> statement-breakpoint
CREATE INDEX `teams_name` ON `teams` (`name`);--> statement-breakpoint
CREATE INDEX `movements_to_team` ON `movements` (`to_account`,`id`) WHERE to_account LIKE 'team:%';--> statement-breakpoint
CREATE INDEX `movements_from_team` ON `movements` (`from_account`,`id`) WHERE from_account LIKE 'team:%';