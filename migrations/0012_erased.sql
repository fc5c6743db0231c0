ALTER TABLE `players` ADD `erased_ms` integer;--> statement-breakpoint
CREATE INDEX `earnings_who` ON `earnings` (`who`);