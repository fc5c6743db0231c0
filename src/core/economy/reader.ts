/**
 * Reads the parts of a document for compiling: amounts in smallest units, formulas with what they may name, and what
 * does not fit is collected. Whatever cannot be resolved is left out, so that the rest can still be audited;
 * `danglingReferences` tells of it.
 */
import { unitsParse, unitsTimes } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import { formulaCompile } from '../formula/index.js';
import type { Formula, Value, ValueType } from '../formula/index.js';
import { pointerOf } from '../issue/index.js';
import type { Issue } from '../issue/index.js';
import { instantRead } from '../schedule/index.js';
import type { Beat, CalendarUnit, Limit, LimitSpan } from '../schedule/index.js';
import type { BasketDocument, Dangling, EconomyDocument } from '../document/index.js';
import { durationMs } from '../schema/index.js';
import type { Currency, Item, QuantityBasket } from './types.js';

export type Segments = (string | number)[];

/** Work in small steps, between which whoever drives it may do something else. */
export type Steps<T = void> = Generator<undefined, T, undefined>;

const typeOf = (value: Value): ValueType =>
  typeof value === 'boolean' ? 'truth' : typeof value === 'number' ? 'number' : 'text';

export class DocumentReader {
  readonly issues: Issue[] = [];
  /** References that name nothing; none where nothing stands against the document. */
  dangling: readonly Dangling[] = [];
  /** All that could be compiled, in order. */
  readonly formulas: Formula[] = [];
  /** What formulas may name: the player's attributes and `day`. */
  readonly playerNames = new Map<string, ValueType>([['day', 'number']]);
  /** Filled while assets are compiled; everything else is read after them. */
  readonly currencies = new Map<string, Currency>();
  readonly items = new Map<string, Item>();
  readonly offerIds = new Set<string>();
  readonly lootIds: ReadonlySet<string>;

  constructor(readonly document: EconomyDocument) {
    for (const [id, attribute] of Object.entries(document.attributes ?? {}))
      this.playerNames.set(id, typeOf(attribute.start));
    this.lootIds = new Set(Object.keys(document.loot ?? {}));
    for (const shop of Object.values(document.shops ?? {}))
      for (const shelf of Object.values(shop.shelves))
        for (const id of Object.keys(shelf.offers)) this.offerIds.add(id);
  }

  issue(code: Issue['code'], segments: Segments, message: string, fix: string): void {
    this.issues.push({ code, pointer: pointerOf(segments), message, fix });
  }

  /** 0 for what is unknown too: that it is unknown is told once, for the whole document. */
  decimalsOf(asset: string): number {
    return this.currencies.get(asset)?.decimals ?? 0;
  }

  units(written: number | string, decimals: number, segments: Segments): Units {
    const parsed =
      typeof written === 'string'
        ? { ok: false as const, message: 'a formula cannot stand here', fix: 'Write a number.' }
        : unitsParse(written, decimals);
    if (parsed.ok) return parsed.units;
    this.issue('bad-amount', segments, parsed.message, parsed.fix);
    return 0;
  }

  times(units: Units, count: number, segments: Segments): Units {
    const product = unitsTimes(units, count);
    if (product === undefined)
      this.issue('bad-amount', segments, `${units} x ${count} is past the ceiling`, 'Write a smaller count.');
    return product ?? 0;
  }

  formula(
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
    this.formulas.push(compiled.formula);
    return compiled.formula;
  }

  quantities(written: BasketDocument, segments: Segments, extra?: ReadonlyMap<string, ValueType>): QuantityBasket {
    const result: QuantityBasket = [];
    for (const [asset, value] of Object.entries(written)) {
      const at = [...segments, asset];
      const decimals = this.decimalsOf(asset);
      if (!this.currencies.has(asset) && !this.items.has(asset)) continue;
      if (typeof value === 'number') result.push({ kind: 'fixed', asset, units: this.units(value, decimals, at) });
      else {
        const rounding = this.currencies.get(asset)?.rounding ?? 'down';
        const formula = this.formula(value, 'number', at, extra);
        if (formula) result.push({ kind: 'formula', asset, formula, decimals, rounding });
      }
    }
    return result;
  }

  fixedBasket(written: BasketDocument | undefined, segments: Segments): Basket {
    const result: Basket = {};
    for (const [asset, value] of Object.entries(written ?? {})) {
      const decimals = this.decimalsOf(asset);
      if (this.currencies.has(asset) || this.items.has(asset))
        result[asset] = this.units(value, decimals, [...segments, asset]);
    }
    return result;
  }

  instant(written: string | undefined): number | undefined {
    return written === undefined ? undefined : instantRead(this.document.timeZone, written)?.ms;
  }

  /** A condition, where one is written. */
  condition(text: string | undefined, segments: Segments, extra?: ReadonlyMap<string, ValueType>): Formula | undefined {
    return text === undefined ? undefined : this.formula(text, 'truth', segments, extra);
  }
}

/** `lifetime`, a calendar unit, or a duration. */
export function spanOf(period: string): LimitSpan {
  const everyMs = durationMs(period);
  if (everyMs !== undefined) return { kind: 'duration', everyMs };
  return period === 'lifetime' ? { kind: 'lifetime' } : { kind: 'calendar', unit: period as CalendarUnit };
}

/** `{day: 3}` as limits; `beat` is that of the shelf's rotation. */
export function limitsCompile(
  reader: DocumentReader,
  written: Readonly<Record<string, number>> | undefined,
  at: Segments,
  beat?: Beat,
): Limit[] {
  return Object.entries(written ?? {}).flatMap(([period, most]): Limit[] => {
    if (period !== 'rotation') return [{ period, most, span: spanOf(period) }];
    if (beat) return [{ period, most, span: { kind: 'beat', beat } }];
    reader.issue(
      'wrong-value',
      [...at, period],
      'it counts per rotation, and this is on no shelf that rotates',
      'Give the shelf a rotation, or count per day, week, month or a duration.',
    );
    return [];
  });
}
