ALTER TABLE `runs` ADD `result_gzip` blob;--> statement-breakpoint
-- Results from before rest on another luck and have other columns: their runs stay, and are run again where one is wanted.
ALTER TABLE `runs` DROP COLUMN `result`;
