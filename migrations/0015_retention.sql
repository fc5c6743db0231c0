CREATE TABLE `archives` (
	`month` text PRIMARY KEY NOT NULL,
	`file` text NOT NULL,
	`sha256` text NOT NULL,
	`rows` integer NOT NULL,
	`last_id` integer NOT NULL,
	`until_ms` integer NOT NULL,
	`made_ms` integer NOT NULL,
	`opened_ms` integer
) STRICT;
--> statement-breakpoint
CREATE TABLE `erasures` (
	`player` text PRIMARY KEY NOT NULL
) STRICT;
--> statement-breakpoint
ALTER TABLE `pictures` ADD `unnamed_ms` integer;--> statement-breakpoint
ALTER TABLE `releases` ADD `document_gzip` blob;--> statement-breakpoint
CREATE INDEX `trail_grants` ON `trail` (`subject`) WHERE action = 'player.grant';