ALTER TABLE `draft_revisions` ADD `splice_at` integer;--> statement-breakpoint
ALTER TABLE `draft_revisions` ADD `splice_removed` integer;