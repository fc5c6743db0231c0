/** What the game reports: each event pays once for ever. */
import type { EventAnswer, EventOutcome } from '../../contract/index.js';
import { eventApply } from '../../core/earning/index.js';
import type { GameEvent, RuleOutcome } from '../../core/earning/index.js';
import { keptOutTold } from '../../core/texts/index.js';
import type { Writer } from '../store/writer.js';
import type { Books } from './books.js';
import type { Done, OncePerKey } from './once.js';

/** An event is known by its id alone: a game that reports it again with other fields is not paid again. */
const ANY_WORDS = '';

export class Events {
  constructor(
    private readonly writer: Writer,
    private readonly books: Books,
    private readonly once: OncePerKey,
  ) {}

  /** Handles events in order, each id once; in portions, so that a long list holds up nobody. */
  report(player: string, list: readonly GameEvent[], channel?: string): Promise<EventAnswer[]> {
    return this.writer.submitEach(list, (event) => {
      const { answer, repeated } = this.once.run('event', { player, key: event.id, asked: ANY_WORDS }, () =>
        this.handle(player, event, channel),
      );
      const { id, name, outcomes, progress } = answer;
      return { id, name, outcomes, progress, repeated };
    });
  }

  private handle(player: string, event: GameEvent, channel?: string): Done<Omit<EventAnswer, 'repeated'>> {
    const standing = this.books.open(player, channel);
    const { economy, atMs } = standing;
    const earned = eventApply(economy, standing.player, event, atMs);
    const { progress } = earned;
    this.books.write(standing, earned);
    return {
      kept: true,
      atMs,
      answer: { id: event.id, name: event.name, outcomes: earned.outcomes.map(told), progress },
    };

    function told(outcome: RuleOutcome): EventOutcome {
      return 'dropped' in outcome ? { ...outcome, keptOut: keptOutTold(economy, outcome.dropped) } : outcome;
    }
  }
}
