/**
 * Turns a checked document into what the engine works with: amounts in smallest units, formulas compiled,
 * instants as milliseconds, references resolved. Whatever cannot be resolved becomes an issue and is left
 * out, so that the rest can still be audited.
 */
import { DateTime } from 'luxon';
import { unitsParse, unitsTimes } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import { formulaCompile } from '../formula/index.js';
import type { Formula, ValueType } from '../formula/index.js';
import { nearestName, pointerOf } from '../issue/index.js';
import type { Issue } from '../issue/index.js';
import type { BasketDocument, EconomyDocument, OfferDocument, ShelfDocument, ShopDocument } from './schema.js';
import { durationMs } from './shapes.js';
import type { Currency, Economy, EarningRule, Item, Offer, PriceChoice, QuantityBasket, Shelf, Shop } from './types.js';

type Segments = (string | number)[];

/** Compiles everything at once. `economy` is complete where no issue stands against a part; publishing needs no issues at all. */
export function economyCompile(document: EconomyDocument): { economy: Economy; issues: Issue[] } {
  return new Compiler(document).compile();
}

/** Issues that make a document unreadable, so that not even a draft may hold them; the others are findings of the audit. */
export function issueBlocksSaving(issue: Issue): boolean {
  return (
    issue.code !== 'dangling-reference' && issue.code !== 'circular-bundle' && issue.code !== 'conflicting-reference'
  );
}

class Compiler {
  readonly issues: Issue[] = [];
  private readonly playerNames = new Map<string, ValueType>([['day', 'number']]);
  private readonly currencies = new Map<string, Currency>();
  private readonly items = new Map<string, Item>();
  private readonly offerIds = new Set<string>();

  constructor(private readonly document: EconomyDocument) {}

  compile(): { economy: Economy; issues: Issue[] } {
    const { document } = this;
    for (const [id, attribute] of Object.entries(document.attributes ?? {}))
      this.playerNames.set(id, typeof attribute.start === 'number' ? 'number' : 'text');
    this.readAssets();
    for (const shop of Object.values(document.shops ?? {}))
      for (const shelf of Object.values(shop.shelves))
        for (const id of Object.keys(shelf.offers)) this.offerIds.add(id);
    const shops = new Map(Object.entries(document.shops ?? {}).map(([id, shop]) => [id, this.shop(id, shop)]));
    const offers = new Map<string, Offer>();
    for (const shop of shops.values())
      for (const shelf of shop.shelves) for (const offer of shelf.offers) this.register(offers, offer);
    const earning = this.earning();
    this.checkPlay();
    const economy: Economy = {
      document,
      name: document.name,
      zone: document.timeZone,
      seed: document.seed ?? 1,
      attributes: new Map(Object.entries(document.attributes ?? {}).map(([id, { start }]) => [id, start])),
      currencies: this.currencies,
      items: this.items,
      shops,
      offers,
      earning,
      earningByEvent: groupBy(earning.values(), (rule) => rule.on),
    };
    return { economy, issues: this.issues };
  }

  private issue(code: Issue['code'], segments: Segments, message: string, fix: string): void {
    this.issues.push({ code, pointer: pointerOf(segments), message, fix });
  }

  private register(offers: Map<string, Offer>, offer: Offer): void {
    const first = offers.get(offer.id);
    if (first)
      this.issue(
        'duplicate-id',
        offer.pointer,
        `the offer "${offer.id}" already stands in ${first.shop.name}, shelf ${first.shelf.name}`,
        'Give one of them another id: offer ids are unique in the whole economy.',
      );
    else offers.set(offer.id, offer);
  }

  // --- references and amounts

  private decimalsOf(asset: string, segments: Segments): number {
    const currency = this.currencies.get(asset);
    if (currency) return currency.decimals;
    if (!this.items.has(asset)) {
      const near = nearestName(asset, [...this.currencies.keys(), ...this.items.keys()]);
      this.issue(
        'dangling-reference',
        segments,
        `there is no currency or item "${asset}"`,
        near ? `Did you mean "${near}"?` : 'Create it, or name one that exists.',
      );
    }
    return 0;
  }

  private refers(
    known: { has(id: string): boolean; keys(): Iterable<string> },
    what: string,
    id: string,
    segments: Segments,
  ): boolean {
    if (known.has(id)) return true;
    const near = nearestName(id, known.keys());
    this.issue(
      'dangling-reference',
      segments,
      `there is no ${what} "${id}"`,
      near ? `Did you mean "${near}"?` : `Create the ${what}, or name one that exists.`,
    );
    return false;
  }

  private units(written: number | string, decimals: number, segments: Segments): Units {
    const parsed =
      typeof written === 'string'
        ? { ok: false as const, message: 'a formula cannot stand here', fix: 'Write a number.' }
        : unitsParse(written, decimals);
    if (parsed.ok) return parsed.units;
    this.issue('bad-amount', segments, parsed.message, parsed.fix);
    return 0;
  }

  private times(units: Units, count: number, segments: Segments): Units {
    const product = unitsTimes(units, count);
    if (product === undefined)
      this.issue('bad-amount', segments, `${units} x ${count} is past the ceiling`, 'Write a smaller count.');
    return product ?? 0;
  }

  private formula(
    text: string,
    wants: ValueType,
    segments: Segments,
    extra?: ReadonlyMap<string, ValueType>,
  ): Formula | undefined {
    const names = extra ? new Map([...this.playerNames, ...extra]) : this.playerNames;
    const compiled = formulaCompile(text, names, wants);
    if (!compiled.ok) {
      const { problem } = compiled;
      this.issue('bad-formula', segments, `${text}: ${problem.message}, at character ${problem.at + 1}`, problem.fix);
      return undefined;
    }
    const known = { owned: this.items, balance: this.currencies, bought: this.offerIds };
    const words = { owned: 'item', balance: 'currency', bought: 'offer' };
    for (const { lookup, id } of compiled.formula.references) this.refers(known[lookup], words[lookup], id, segments);
    return compiled.formula;
  }

  private quantities(
    written: BasketDocument,
    segments: Segments,
    extra?: ReadonlyMap<string, ValueType>,
  ): QuantityBasket {
    const result: QuantityBasket = [];
    for (const [asset, value] of Object.entries(written)) {
      const at = [...segments, asset];
      const decimals = this.decimalsOf(asset, at);
      if (!this.currencies.has(asset) && !this.items.has(asset)) continue;
      const rounding = this.currencies.get(asset)?.rounding ?? 'down';
      if (typeof value === 'number') result.push({ asset, units: this.units(value, decimals, at), decimals, rounding });
      else {
        const formula = this.formula(value, 'number', at, extra);
        if (formula) result.push({ asset, formula, decimals, rounding });
      }
    }
    return result;
  }

  private fixedBasket(written: BasketDocument | undefined, segments: Segments): Basket {
    const result: Basket = {};
    for (const [asset, value] of Object.entries(written ?? {})) {
      const decimals = this.decimalsOf(asset, [...segments, asset]);
      if (this.currencies.has(asset) || this.items.has(asset))
        result[asset] = this.units(value, decimals, [...segments, asset]);
    }
    return result;
  }

  private instant(written: string | undefined): number | undefined {
    return written === undefined ? undefined : DateTime.fromISO(written, { zone: this.document.timeZone }).toMillis();
  }

  // --- assets

  private readAssets(): void {
    for (const [id, currency] of Object.entries(this.document.currencies ?? {})) this.readCurrency(id, currency);
    const items = Object.entries(this.document.items ?? {});
    for (const [id, item] of items) {
      if (this.currencies.has(id))
        this.issue(
          'duplicate-id',
          ['items', id],
          `"${id}" is also a currency`,
          'Rename one of them: currencies and items share their ids.',
        );
      this.items.set(id, {
        id,
        name: item.name,
        kind: item.kind,
        group: item.group,
        carry: item.carry,
        stack: item.stack,
        worth: {},
        gives: {},
      });
    }
    const groups = new Map(Object.entries(this.document.groups ?? {}));
    for (const [id, document] of items) {
      const item = this.items.get(id)!;
      item.worth = this.fixedBasket(document.worth, ['items', id, 'worth']);
      item.gives = this.fixedBasket(document.gives, ['items', id, 'gives']);
      if (document.group !== undefined) this.refers(groups, 'group', document.group, ['items', id, 'group']);
      if (document.gives && document.kind !== 'bundle')
        this.issue(
          'wrong-value',
          ['items', id, 'gives'],
          'only a bundle gives a basket',
          'Set kind: bundle, or remove gives.',
        );
      if (document.kind === 'bundle' && Object.keys(document.gives ?? {}).length === 0)
        this.issue(
          'missing-field',
          ['items', id],
          `the bundle "${id}" gives nothing`,
          'Write gives: {...} with what it unpacks into.',
        );
    }
    for (const id of this.items.keys()) this.breakCircle(id);
  }

  private readCurrency(id: string, written: NonNullable<EconomyDocument['currencies']>[string]): void {
    const decimals = written.decimals ?? 0;
    const at = ['currencies', id];
    const optional = (field: 'start' | 'cap') =>
      written[field] === undefined ? undefined : this.units(written[field], decimals, [...at, field]);
    const { refill } = written;
    const cap = optional('cap');
    this.currencies.set(id, {
      id,
      name: written.name,
      symbol: written.symbol ?? '',
      decimals,
      rounding: written.rounding ?? 'down',
      premium: written.premium ?? false,
      start: optional('start') ?? 0,
      cap,
      overCap: written.overCap ?? 'clip',
      refill: refill && {
        amount: this.units(refill.amount, decimals, [...at, 'refill', 'amount']),
        everyMs: durationMs(refill.every)!,
        upTo: this.units(refill.upTo, decimals, [...at, 'refill', 'upTo']),
      },
    });
    const currency = this.currencies.get(id)!;
    if (cap !== undefined && currency.start > cap)
      this.issue('wrong-value', [...at, 'start'], 'a new player starts above the cap', 'Lower start, or raise cap.');
    if (cap !== undefined && currency.refill && currency.refill.upTo > cap)
      this.issue(
        'wrong-value',
        [...at, 'refill', 'upTo'],
        'the refill runs above the cap',
        'Lower upTo, or raise cap.',
      );
    if (refill && currency.refill!.amount === 0)
      this.issue('bad-amount', [...at, 'refill', 'amount'], 'the refill brings nothing', 'Write an amount above 0.');
  }

  /** A bundle that holds itself, however deep, would never finish unpacking: it is cut and reported. */
  private breakCircle(start: string): void {
    const visit = (id: string, path: string[]): boolean => {
      if (path.length > 0 && id === start) {
        this.issue(
          'circular-bundle',
          ['items', start, 'gives'],
          `the bundle holds itself: ${[...path, id].join(' > ')}`,
          'Take it out of one of them.',
        );
        return true;
      }
      if (path.includes(id)) return false;
      return Object.keys(this.items.get(id)?.gives ?? {}).some((inner) => visit(inner, [...path, id]));
    };
    if (visit(start, [])) this.items.get(start)!.gives = {};
  }

  // --- shops

  private shop(id: string, written: ShopDocument): Shop {
    const at = ['shops', id];
    const shop: Shop = {
      id,
      name: written.name,
      hidden: written.hidden ?? false,
      shelves: [],
      when: written.when === undefined ? undefined : this.formula(written.when, 'truth', [...at, 'when']),
      fromMs: this.instant(written.from),
      untilMs: this.instant(written.until),
    };
    this.checkWindow(written, at);
    shop.shelves = Object.entries(written.shelves).map(([shelfId, shelf]) =>
      this.shelf(shop, shelfId, shelf, [...at, 'shelves', shelfId]),
    );
    return shop;
  }

  private shelf(shop: Shop, id: string, written: ShelfDocument, at: Segments): Shelf {
    const shelf: Shelf = { id, name: written.name, hidden: written.hidden ?? false, offers: [] };
    shelf.offers = Object.entries(written.offers).map(([offerId, offer]) =>
      this.offer(shop, shelf, offerId, offer, [...at, 'offers', offerId]),
    );
    return shelf;
  }

  private checkWindow(written: { from?: string | undefined; until?: string | undefined }, at: Segments): void {
    const from = this.instant(written.from);
    const until = this.instant(written.until);
    if (from !== undefined && until !== undefined && until <= from)
      this.issue(
        'wrong-value',
        [...at, 'until'],
        `it ends (${written.until}) before it begins (${written.from})`,
        'Swap or mend the two instants.',
      );
  }

  private offer(shop: Shop, shelf: Shelf, id: string, written: OfferDocument, at: Segments): Offer {
    const count = written.count ?? 1;
    const gives = typeof written.gives === 'string' ? { [written.gives]: count } : written.gives;
    if (typeof written.gives !== 'string' && count !== 1)
      this.issue(
        'wrong-value',
        [...at, 'count'],
        'count goes with a single item, and this offer gives a basket',
        'Write the amounts into the basket, and remove count.',
      );
    const single = typeof written.gives === 'string' ? this.items.get(written.gives) : undefined;
    this.checkWindow(written, at);
    const { stock } = written;
    return {
      id,
      pointer: at.map(String),
      shop,
      shelf,
      hidden: written.hidden ?? false,
      name: written.name ?? this.givenName(written, single),
      description: written.description ?? this.document.items?.[single?.id ?? '']?.description,
      badge: written.badge,
      gives:
        typeof written.gives === 'string' && !single && !this.currencies.has(written.gives)
          ? this.noSuchItem(written.gives, at)
          : this.quantities(gives, [...at, 'gives']),
      prices: this.prices(written, single, count, at),
      stock: stock && {
        units: stock.units,
        scope: stock.scope ?? 'shared',
        restock: stock.restock && {
          amount: stock.restock.amount,
          everyMs: durationMs(stock.restock.every)!,
          upTo: stock.units,
        },
      },
      limits: Object.entries(written.limits ?? {}).map(([period, most]) => ({
        period,
        most,
        everyMs: durationMs(period),
      })),
      when: written.when === undefined ? undefined : this.formula(written.when, 'truth', [...at, 'when']),
      fromMs: this.instant(written.from),
      untilMs: this.instant(written.until),
    };
  }

  private noSuchItem(id: string, at: Segments): QuantityBasket {
    this.decimalsOf(id, [...at, 'gives']);
    return [];
  }

  private givenName(written: OfferDocument, single: Item | undefined): string {
    if (single) return (written.count ?? 1) > 1 ? `${single.name} x${written.count}` : single.name;
    const assets = typeof written.gives === 'string' ? [written.gives] : Object.keys(written.gives);
    return assets.map((asset) => this.currencies.get(asset)?.name ?? this.items.get(asset)?.name ?? asset).join(' + ');
  }

  /** `undefined` stands for "no price": such an offer is never sold, and the audit reports it. */
  private prices(
    written: OfferDocument,
    single: Item | undefined,
    count: number,
    at: Segments,
  ): PriceChoice[] | undefined {
    if (written.price === 'free') return [{ pay: 'free', basket: [] }];
    if (written.price === undefined) {
      if (!single || Object.keys(single.worth).length === 0) return undefined;
      const basket = Object.entries(single.worth).map(([asset, units]) => ({
        asset,
        units: this.times(units, count, [...at, 'count']),
        decimals: this.currencies.get(asset)?.decimals ?? 0,
        rounding: 'down' as const,
      }));
      return [{ pay: payKey(basket), basket }];
    }
    const many = Array.isArray(written.price);
    const list = many ? (written.price as BasketDocument[]) : [written.price as BasketDocument];
    const choices = list
      .map((one, index) => {
        const basket = this.quantities(one, many ? [...at, 'price', index] : [...at, 'price']);
        return { pay: payKey(basket), basket };
      })
      .filter(({ basket }) => basket.length > 0);
    const twice = choices.find((one, index) => choices.findIndex((other) => other.pay === one.pay) !== index);
    if (twice)
      this.issue(
        'conflicting-reference',
        [...at, 'price'],
        `two alternatives ask for the same things (${twice.pay})`,
        'Keep one of them: a player would never pick the dearer.',
      );
    return choices.length === 0 ? undefined : choices;
  }

  // --- earning and play

  private earning(): Map<string, EarningRule> {
    const events = new Map(Object.entries(this.document.events ?? {}));
    const rules = new Map<string, EarningRule>();
    for (const [id, written] of Object.entries(this.document.earning ?? {})) {
      const at = ['earning', id];
      this.refers(events, 'event', written.on, [...at, 'on']);
      const extra = new Map(Object.entries(events.get(written.on)?.fields ?? {})) as Map<string, ValueType>;
      const chance =
        typeof written.chance === 'string'
          ? this.formula(written.chance, 'number', [...at, 'chance'], extra)
          : written.chance;
      if (!written.gives && !written.takes)
        this.issue(
          'missing-field',
          at,
          `the rule "${id}" neither gives nor takes`,
          'Write gives: {...} or takes: {...}.',
        );
      rules.set(id, {
        id,
        name: written.name,
        on: written.on,
        chance: chance ?? 1,
        when: written.when === undefined ? undefined : this.formula(written.when, 'truth', [...at, 'when'], extra),
        gives: this.quantities(written.gives ?? {}, [...at, 'gives'], extra),
        takes: this.quantities(written.takes ?? {}, [...at, 'takes'], extra),
        limits: Object.entries(written.limits ?? {}).map(([period, most]) => ({
          period,
          most,
          everyMs: durationMs(period),
        })),
        cooldownMs: written.cooldown === undefined ? undefined : durationMs(written.cooldown),
      });
    }
    return rules;
  }

  /** Activities, personas and scenarios are read by the simulator; here their references are checked. */
  private checkPlay(): void {
    const keys = (section: Record<string, unknown> | undefined) => new Set(Object.keys(section ?? {}));
    const [events, activities, personas] = [
      keys(this.document.events),
      keys(this.document.activities),
      keys(this.document.personas),
    ];
    for (const [id, activity] of Object.entries(this.document.activities ?? {})) {
      this.fixedBasket(activity.needs, ['activities', id, 'needs']);
      for (const [event, written] of Object.entries(activity.emits))
        this.checkEmit(['activities', id, 'emits', event], event, written, events);
    }
    for (const [id, persona] of Object.entries(this.document.personas ?? {})) {
      for (const activity of Object.keys(persona.plays))
        this.refers(activities, 'activity', activity, ['personas', id, 'plays', activity]);
      (persona.shops.wishes ?? []).forEach((wish, index) =>
        this.refers(this.items, 'item', wish, ['personas', id, 'shops', 'wishes', index]),
      );
      this.fixedBasket(persona.shops.keeps, ['personas', id, 'shops', 'keeps']);
      for (const attribute of Object.keys(persona.attributes ?? {}))
        this.refers(this.playerNames, 'attribute', attribute, ['personas', id, 'attributes', attribute]);
    }
    for (const [id, scenario] of Object.entries(this.document.scenarios ?? {}))
      for (const persona of Object.keys(scenario.mix))
        this.refers(personas, 'persona', persona, ['scenarios', id, 'mix', persona]);
  }

  private checkEmit(at: Segments, event: string, written: Record<string, unknown>, events: Set<string>): void {
    if (!this.refers(events, 'event', event, at)) return;
    const fields = new Map(Object.entries(this.document.events?.[event]?.fields ?? {}));
    for (const [field, drawn] of Object.entries(written)) {
      if (
        this.refers(fields, 'event field', field, [...at, field]) &&
        typeof drawn === 'string' &&
        drawn.startsWith('=')
      )
        this.formula(drawn, fields.get(field)!, [...at, field]);
    }
    for (const field of fields.keys())
      if (!Object.hasOwn(written, field))
        this.issue(
          'missing-field',
          at,
          `the event "${event}" has a field "${field}" that is not drawn`,
          `Write ${field}: with a value or a way to draw it.`,
        );
  }
}

/** How a request names an alternative price: the assets it asks for, in order, joined by "+". */
function payKey(basket: QuantityBasket): string {
  return basket
    .map(({ asset }) => asset)
    .sort()
    .join('+');
}

function groupBy<T>(values: Iterable<T>, keyOf: (value: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const value of values) {
    const group = groups.get(keyOf(value));
    if (group) group.push(value);
    else groups.set(keyOf(value), [value]);
  }
  return groups;
}
