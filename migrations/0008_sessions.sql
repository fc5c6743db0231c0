ALTER TABLE `tokens` ADD `parent` text;
--> statement-breakpoint
-- Sessions from before do not know what they were opened with: whoever has one signs in again.
DELETE FROM `tokens` WHERE `expires_ms` IS NOT NULL;
