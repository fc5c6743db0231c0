/** Records of what all players share: limited stock and the cash of tills. Read once and then held. */
import { sql } from 'drizzle-orm';
import type { Level } from '../../core/schedule/index.js';
import { sharedWith } from '../../core/trade/index.js';
import type { Shared } from '../../core/trade/index.js';
import type { Caches, Held } from '../held.js';
import type { Database } from './database.js';
import { direct } from './direct.js';
import { sharedStocks, tills } from './tables.js';

/** What of it an answer depends on. */
export interface SharedUse {
  /** Offers. */
  stocks: readonly string[];
  /** Shops. */
  tills: readonly string[];
}

export class SharedStore {
  private readonly held: Held<Shared>;
  private versions = 0;
  /** When each offer's stock and each shop's till last changed, and when all of it was last forgotten. */
  private readonly changed = { stocks: new Map<string, number>(), tills: new Map<string, number>() };
  private forgotten = 0;
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(database: Database, caches: Caches) {
    this.statements = prepareStatements(database);
    this.held = caches.held(() => this.read());
    caches.onForget(() => {
      for (const versions of Object.values(this.changed)) versions.clear();
      this.forgotten = ++this.versions;
    });
  }

  get(): Shared {
    return this.held.get();
  }

  private read(): Shared {
    const byShop: Record<string, Record<string, Level>> = {};
    for (const { shop, asset, ...level } of this.statements.tills.all()) (byShop[shop] ??= {})[asset] = level;
    return {
      stocks: Object.fromEntries(this.statements.stocks.all().map(({ offer, ...level }) => [offer, level])),
      tills: byShop,
    };
  }

  /** Inside the writer only. */
  save(changed: Shared): void {
    const { statements } = this;
    for (const offer in changed.stocks) {
      const { units, sinceMs } = changed.stocks[offer]!;
      statements.saveStock.run(offer, units, sinceMs);
      this.changed.stocks.set(offer, ++this.versions);
    }
    for (const shop in changed.tills) {
      const drawers = changed.tills[shop]!;
      for (const asset in drawers) {
        const { units, sinceMs } = drawers[asset]!;
        statements.saveTill.run(shop, asset, units, sinceMs);
      }
      this.changed.tills.set(shop, ++this.versions);
    }
    this.held.set(sharedWith(this.get(), changed));
  }

  /** Raised whenever something of this changes. */
  version({ stocks, tills: shops }: SharedUse): number {
    let latest = this.forgotten;
    for (const offer of stocks) latest = Math.max(latest, this.changed.stocks.get(offer) ?? 0);
    for (const shop of shops) latest = Math.max(latest, this.changed.tills.get(shop) ?? 0);
    return latest;
  }
}

function prepareStatements(database: Database) {
  const { db } = database;
  const at = (name: string) => sql.placeholder(name);
  const set = { units: sql`excluded.units`, sinceMs: sql`excluded.since_ms` };
  const level = { units: at('units'), sinceMs: at('sinceMs') };
  return {
    stocks: db.select().from(sharedStocks).prepare(),
    tills: db.select().from(tills).prepare(),
    saveStock: direct<[offer: string, units: number, sinceMs: number | null]>(
      database,
      ['offer', 'units', 'sinceMs'],
      db
        .insert(sharedStocks)
        .values({ offer: at('offer'), ...level })
        .onConflictDoUpdate({ target: sharedStocks.offer, set }),
    ),
    saveTill: direct<[shop: string, asset: string, units: number, sinceMs: number | null]>(
      database,
      ['shop', 'asset', 'units', 'sinceMs'],
      db
        .insert(tills)
        .values({ shop: at('shop'), asset: at('asset'), ...level })
        .onConflictDoUpdate({ target: [tills.shop, tills.asset], set }),
    ),
  };
}
