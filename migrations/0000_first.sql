CREATE TABLE `balances` (
	`player` text NOT NULL,
	`currency` text NOT NULL,
	`units` integer NOT NULL,
	`since_ms` integer,
	PRIMARY KEY(`player`, `currency`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `channels` (
	`name` text PRIMARY KEY NOT NULL,
	`release` integer NOT NULL,
	`changed_ms` integer NOT NULL,
	`changed_by` text NOT NULL,
	FOREIGN KEY (`release`) REFERENCES `releases`(`number`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `counters` (
	`player` text NOT NULL,
	`key` text NOT NULL,
	`count` integer NOT NULL,
	`start_ms` integer NOT NULL,
	PRIMARY KEY(`player`, `key`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `draft_revisions` (
	`revision` integer PRIMARY KEY NOT NULL,
	`document` text NOT NULL,
	`saved_ms` integer NOT NULL,
	`saved_by` text NOT NULL,
	`why` text NOT NULL
) STRICT;
--> statement-breakpoint
CREATE TABLE `events` (
	`player` text NOT NULL,
	`id` text NOT NULL,
	`name` text NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL,
	PRIMARY KEY(`player`, `id`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `grants` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`player` text NOT NULL,
	`key` text NOT NULL,
	`request` text NOT NULL,
	`who` text NOT NULL,
	`reason` text NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL,
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE UNIQUE INDEX `grants_key` ON `grants` (`player`,`key`);--> statement-breakpoint
CREATE TABLE `movements` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`player` text NOT NULL,
	`asset` text NOT NULL,
	`units` integer NOT NULL,
	`from_account` text NOT NULL,
	`to_account` text NOT NULL,
	`cause` text NOT NULL,
	`release` integer NOT NULL,
	`at_ms` integer NOT NULL
) STRICT;
--> statement-breakpoint
CREATE INDEX `movements_player` ON `movements` (`player`,`id`);--> statement-breakpoint
CREATE TABLE `players` (
	`id` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`started_ms` integer NOT NULL,
	`attributes` text NOT NULL
) STRICT;
--> statement-breakpoint
CREATE INDEX `players_name` ON `players` (`name`);--> statement-breakpoint
CREATE TABLE `purchases` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`player` text NOT NULL,
	`key` text NOT NULL,
	`request` text NOT NULL,
	`offer` text NOT NULL,
	`times` integer NOT NULL,
	`release` integer NOT NULL,
	`at_ms` integer NOT NULL,
	`answer` text NOT NULL,
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE UNIQUE INDEX `purchases_key` ON `purchases` (`player`,`key`);--> statement-breakpoint
CREATE TABLE `releases` (
	`number` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`document` text NOT NULL,
	`note` text NOT NULL,
	`draft_revision` integer NOT NULL,
	`published_ms` integer NOT NULL,
	`published_by` text NOT NULL
) STRICT;
--> statement-breakpoint
CREATE TABLE `runs` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`name` text NOT NULL,
	`setup` text NOT NULL,
	`status` text NOT NULL,
	`day` integer NOT NULL,
	`days` integer NOT NULL,
	`created_ms` integer NOT NULL,
	`created_by` text NOT NULL,
	`error` text,
	`result` text
) STRICT;
--> statement-breakpoint
CREATE TABLE `stacks` (
	`player` text NOT NULL,
	`slot` integer NOT NULL,
	`item` text NOT NULL,
	`units` integer NOT NULL,
	`place` text NOT NULL,
	`cause` text NOT NULL,
	PRIMARY KEY(`player`, `slot`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
CREATE TABLE `stocks` (
	`player` text NOT NULL,
	`offer` text NOT NULL,
	`units` integer NOT NULL,
	`since_ms` integer,
	PRIMARY KEY(`player`, `offer`)
) STRICT;
--> statement-breakpoint
CREATE TABLE `tokens` (
	`hash` text PRIMARY KEY NOT NULL,
	`name` text NOT NULL,
	`role` text NOT NULL,
	`created_ms` integer NOT NULL,
	`expires_ms` integer
) STRICT;
--> statement-breakpoint
CREATE TABLE `trail` (
	`id` integer PRIMARY KEY AUTOINCREMENT NOT NULL,
	`at_ms` integer NOT NULL,
	`who` text NOT NULL,
	`action` text NOT NULL,
	`subject` text NOT NULL,
	`why` text NOT NULL
) STRICT;
