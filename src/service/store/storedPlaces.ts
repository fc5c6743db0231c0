/** Places in a ranking, by looking through all scores that are stored: nothing needs to be kept, and each question takes as long as there are many. */
import type { Units } from '../../core/amount/index.js';
import { Lookout, placesOf } from '../../core/ranking/index.js';
import type { Placed, Places, Scored } from '../../core/ranking/index.js';
import type { Database } from './database.js';

/** What is bound where `scored` is asked. */
type Bound = object;
type Statements = ReturnType<ReturnType<typeof placesPrepare>>;

/** Where everybody stands behind. */
const TOP: Scored = { who: '', score: Infinity };

/** Gives the statements about what `scored` gives: `who` and `score` of all who have one. */
export function placesPrepare({ raw }: Database) {
  let lookout: Lookout | undefined;
  // Called for each row by SQLite itself: that takes a fifth of what it takes to hand the rows out.
  raw.function('look', (who: string, score: number) => {
    lookout!.add(who, score);
    return 1;
  });
  return (scored: string) => {
    const look = raw.prepare<[Bound]>(`SELECT sum(look(who, score)) FROM (${scored})`);
    return {
      look: (bound: Bound, point: Scored, most: { ahead: number; behind: number }): Lookout => {
        lookout = new Lookout(point, most);
        look.get(bound);
        return lookout;
      },
      score: raw.prepare<[Bound], Units>(`SELECT score FROM (${scored}) WHERE who = @who`).pluck(),
      higher: raw.prepare<[Bound], number>(`SELECT count(*) FROM (${scored}) WHERE score > @score`).pluck(),
      count: raw.prepare<[Bound], number>(`SELECT count(*) FROM (${scored})`).pluck(),
      /** Whatever is asked in one of these is of one moment. */
      together: <T>(work: () => T): T => raw.transaction(work)(),
    };
  };
}

export class StoredPlaces implements Places {
  private all: number | undefined;

  constructor(
    private readonly statements: Statements,
    private readonly bound: Bound,
  ) {}

  get of(): number {
    return (this.all ??= this.statements.count.get(this.bound)!);
  }

  after(last: Scored | undefined, count: number): { items: Placed[]; isEnd: boolean } {
    const found = this.look(last ?? TOP, { ahead: 0, behind: count });
    const items = found.behind;
    const from = found.of - found.after;
    const first = items[0]?.score === last?.score ? found.higher : from;
    return { items: placesOf(items, from, first + 1), isEnd: items.length === found.after };
  }

  around(who: string, count: number): { score: Units; place: number | null; around: Placed[] } {
    const { score: scoreOf, higher, together } = this.statements;
    return together(() => {
      const score = scoreOf.get({ ...this.bound, who }) ?? 0;
      const found = this.look({ who, score }, { ahead: count, behind: count });
      const items = [...found.ahead.reverse(), ...(score > 0 ? [{ who, score }] : []), ...found.behind];
      const first = items[0]?.score ?? score;
      return {
        score,
        place: score > 0 ? found.higher + 1 : null,
        around: placesOf(
          items,
          found.before - found.ahead.length,
          1 + (first === score ? found.higher : higher.get({ ...this.bound, score: first })!),
        ),
      };
    });
  }

  private look(point: Scored, most: { ahead: number; behind: number }): Lookout {
    const found = this.statements.look(this.bound, point, most);
    this.all = found.of;
    return found;
  }
}
