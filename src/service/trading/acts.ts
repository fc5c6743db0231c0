/** What players do with what they hold: selling back and every act of the items' kinds. */
import type { ActAnswer } from '../../contract/index.js';
import { keptOutTold, verdictExplain } from '../../core/texts/index.js';
import type { Explained } from '../../core/texts/index.js';
import { ACTS } from '../../core/trade/index.js';
import type { ActKind, ActRequest, ActVerdict } from '../../core/trade/index.js';
import { Problem } from '../problem.js';
import type { Writer } from '../store/writer.js';
import type { Books } from './books.js';
import { requestWords } from './once.js';
import type { Done, Once, OncePerKey } from './once.js';

/** An act as one of a batch, under a key of its own. */
type InBatch = ActRequest & { id: string };

export class Acts {
  constructor(
    private readonly writer: Writer,
    private readonly books: Books,
    private readonly once: OncePerKey,
  ) {}

  /** Does it once per key. Throws where it is refused; a refusal keeps no key, so that it can be tried again. */
  act(kind: ActKind, player: string, request: ActRequest, key: string, channel?: string): Promise<Once<ActAnswer>> {
    return this.writer.submit(() => {
      const done = this.actOnce(kind, player, request, key, channel);
      const { verdict } = done.answer;
      if (!verdict.allowed)
        throw new Problem('act-refused', verdict.reasons.map(({ sentence }) => sentence).join(' '), { verdict });
      return done;
    });
  }

  /**
   * Uses reported in one batch, each with its own key; a refusal of one stops none of the others. A key that belongs to
   * another request refuses the whole batch, and that is seen before any of it is written. Done in portions, so that a long
   * batch holds up nobody.
   */
  async useMany(player: string, uses: readonly InBatch[], channel?: string): Promise<(ActAnswer & { id: string })[]> {
    this.once.keysFree(
      'act',
      uses.map(({ id, ...request }) => ({ player, key: id, asked: words('use', request, channel) })),
    );
    return this.writer.submitEach(uses, ({ id, ...request }) => ({
      id,
      ...this.actOnce('use', player, request, id, channel).answer,
    }));
  }

  /** What an act would do; nothing happens. */
  ask(kind: ActKind, player: string, request: ActRequest, channel?: string): ActAnswer {
    const { economy, release, atMs, ...standing } = this.books.open(player, channel);
    const verdict = ACTS[kind].check(economy, standing.player, standing.shared, request, atMs);
    return { act: 0, ...nothingDone(release, verdictExplain(economy, verdict)) };
  }

  private actOnce(kind: ActKind, player: string, request: ActRequest, key: string, channel?: string): Once<ActAnswer> {
    const { number, answer, repeated } = this.once.run(
      'act',
      { player, key, asked: words(kind, request, channel) },
      () => this.actNow(kind, player, request, channel),
    );
    return { answer: { act: number, ...answer }, repeated };
  }

  private actNow(
    kind: ActKind,
    player: string,
    request: ActRequest,
    channel: string | undefined,
  ): Done<Omit<ActAnswer, 'act'>> {
    const standing = this.books.open(player, channel);
    const { economy, shared, release, atMs } = standing;
    const verdict = ACTS[kind].check(economy, standing.player, shared, request, atMs);
    const explained = verdictExplain(economy, verdict);
    if (!verdict.allowed) return { kept: false, answer: nothingDone(release, explained) };
    const acted = ACTS[kind].apply(economy, standing.player, shared, verdict);
    this.books.write(standing, acted);
    const { given, dropped, set, progress } = acted;
    return {
      kept: true,
      atMs,
      answer: { release, verdict: explained, given, dropped, keptOut: keptOutTold(economy, dropped), set, progress },
    };
  }
}

const words = (kind: ActKind, { item, times = 1, shop, expect }: ActRequest, channel: string | undefined): string =>
  requestWords([kind, item, times, shop ?? null, expect ? Object.entries(expect).sort() : null], channel);

const nothingDone = (release: number, verdict: Explained<ActVerdict>): Omit<ActAnswer, 'act'> => ({
  release,
  verdict,
  given: {},
  dropped: {},
  keptOut: [],
  set: {},
  progress: [],
});
