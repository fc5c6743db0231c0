-- Answers tell what was kept out and why; those from before say only how much.
UPDATE `handled` SET `answer` = json_set(`answer`, '$.keptOut', json('[]')) WHERE `kind` IN ('act', 'grant');
--> statement-breakpoint
UPDATE `handled` SET `answer` = json_set(`answer`, '$.outcomes', (
  SELECT json_group_array(json(iif(json_extract(`value`, '$.paid'), json_set(`value`, '$.keptOut', json('[]')), `value`)))
  FROM json_each(`answer`, '$.outcomes')))
WHERE `kind` = 'event' AND json_type(`answer`, '$.outcomes') = 'array';
