/** Who a question is about: a real player, or one made up for it. */
import type { Command } from 'commander';
import type { Profile } from '../core/player/index.js';
import type { AssetLabels } from '../core/texts/index.js';
import { UsageProblem } from './context.js';
import { collect, parseBasket, parseFields } from './parse.js';

export interface WhoOptions {
  player?: string;
  attribute?: string[];
  holds?: string[];
  at?: string;
  source?: string;
}

export const withWho = (command: Command): Command =>
  command
    .option('--player <id>', 'a real player')
    .option('--attribute <name=value>', 'of a made-up player', collect)
    .option('--holds <asset=amount>', 'what a made-up player has', collect)
    .option('--at <instant>', 'such as 2027-03-01T09:00; now by default')
    .option('--source <source>', 'draft, a channel or a release number');

export function profileOf({ attribute = [], holds = [] }: WhoOptions, labels: AssetLabels): Profile {
  return { attributes: parseFields(attribute), holds: parseBasket(holds, labels) };
}

/** A real player, or a made-up one; never both. */
export function whoOf(options: WhoOptions, labels: AssetLabels): { player: string } | { profile: Profile } {
  if (options.player === undefined) return { profile: profileOf(options, labels) };
  if (options.attribute || options.holds)
    throw new UsageProblem('--player is a real player; --attribute and --holds make one up. Use one or the other.');
  return { player: options.player };
}
