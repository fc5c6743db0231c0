CREATE TABLE `shared_stocks` (
	`offer` text PRIMARY KEY NOT NULL,
	`units` integer NOT NULL,
	`since_ms` integer
) STRICT;
--> statement-breakpoint
CREATE TABLE `tills` (
	`shop` text NOT NULL,
	`asset` text NOT NULL,
	`units` integer NOT NULL,
	`since_ms` integer,
	PRIMARY KEY(`shop`, `asset`)
) STRICT;
--> statement-breakpoint
-- Until here both were kept as stock of the empty player, a till under `till SHOP ASSET`.
INSERT INTO `tills`
SELECT substr(`offer`, 6, instr(substr(`offer`, 6), ' ') - 1), substr(`offer`, 6 + instr(substr(`offer`, 6), ' ')), `units`, `since_ms`
FROM `stocks` WHERE `player` = '' AND `offer` LIKE 'till %';
--> statement-breakpoint
INSERT INTO `shared_stocks`
SELECT `offer`, `units`, `since_ms` FROM `stocks` WHERE `player` = '' AND `offer` NOT LIKE 'till %';
--> statement-breakpoint
-- The ledger did not count them before: what they hold now is what they begin with.
INSERT INTO `movements` (`player`, `asset`, `units`, `from_account`, `to_account`, `cause`, `release`, `at_ms`)
SELECT '', `asset`, `units`, 'world:till', 'till:' || `shop`, 'till:' || `shop`, 0, (SELECT coalesce(max(`at_ms`), 0) FROM `movements`)
FROM `tills` WHERE `units` > 0;
--> statement-breakpoint
INSERT INTO `movements` (`player`, `asset`, `units`, `from_account`, `to_account`, `cause`, `release`, `at_ms`)
SELECT '', 'offer:' || `offer`, `units`, 'world:stock', 'stock:' || `offer`, 'stock:' || `offer`, 0, (SELECT coalesce(max(`at_ms`), 0) FROM `movements`)
FROM `shared_stocks` WHERE `units` > 0;
--> statement-breakpoint
CREATE TABLE `own_stocks` (
	`player` text NOT NULL,
	`offer` text NOT NULL,
	`units` integer NOT NULL,
	`since_ms` integer,
	PRIMARY KEY(`player`, `offer`),
	FOREIGN KEY (`player`) REFERENCES `players`(`id`) ON UPDATE no action ON DELETE no action
) STRICT;
--> statement-breakpoint
INSERT INTO `own_stocks` SELECT `player`, `offer`, `units`, `since_ms` FROM `stocks` WHERE `player` <> '';
--> statement-breakpoint
DROP TABLE `stocks`;
--> statement-breakpoint
ALTER TABLE `own_stocks` RENAME TO `stocks`;
