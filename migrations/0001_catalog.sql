CREATE TABLE `acts` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`player` text NOT NULL,
	`key` text NOT NULL,
	`kind` text NOT NULL,
	`request` text NOT NULL,
	`release` integer NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL,
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE UNIQUE INDEX `acts_key` ON `acts` (`player`,`key`);--> statement-breakpoint
CREATE TABLE `pictures` (
	`name` text PRIMARY KEY NOT NULL,
	`type` text NOT NULL,
	`bytes` blob NOT NULL,
	`hash` text NOT NULL,
	`saved_ms` integer NOT NULL,
	`saved_by` text NOT NULL
) STRICT;
--> statement-breakpoint
ALTER TABLE `stacks` ADD `uses_left` integer;--> statement-breakpoint
ALTER TABLE `stacks` ADD `expires_ms` integer;--> statement-breakpoint
ALTER TABLE `stacks` ADD `paid` text;