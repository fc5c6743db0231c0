/** A replay as tables and sentences. */
import { csvText } from '../csv/index.js';
import type { Economy } from '../economy/index.js';
import { instantWritten } from '../schedule/index.js';
import { reasonSentence } from '../texts/index.js';
import type { Replayed } from './replay.js';

/** For each reason the first purchase that would be refused, in words. `what` a log counts: its lines, or purchases. */
export function replayExamples(
  economy: Economy,
  each: readonly Replayed[],
  what: 'line' | 'purchase' = 'line',
): string[] {
  const examples = new Map<string, string>();
  for (const one of each) {
    if (one.outcome !== 'refused') continue;
    const [reason] = one.reasons;
    if (!examples.has(reason!.code))
      examples.set(
        reason!.code,
        `${what} ${one.recorded.line}, ${one.recorded.player}, ${one.name}: ${reasonSentence(economy, reason!)}`,
      );
  }
  return [...examples.values()];
}

/** Every purchase with what becomes of it, by RFC 4180, which ends lines with CR LF. */
export const replayCsv = (economy: Economy, each: readonly Replayed[]): string =>
  csvText([
    ['line', 'player', 'at', 'offer', 'outcome', 'paid', 'cost', 'reasons'],
    ...each.map((one) => {
      const { line, player, atMs, offer, paid } = one.recorded;
      const units = (basket: object | undefined): string =>
        Object.entries(basket ?? {})
          .map(([asset, amount]) => `${String(amount)} ${asset}`)
          .join(', ');
      return [
        line,
        player,
        instantWritten(economy.zone, atMs),
        offer,
        one.outcome,
        units(paid),
        one.outcome === 'bought' ? units(one.total) : '',
        one.outcome === 'refused' ? one.reasons.map(({ code }) => code).join(' ') : '',
      ];
    }),
  ]);
