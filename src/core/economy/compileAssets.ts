/** Currencies and items: the assets that everything else is written in. */
import { basketAdd } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { References } from './references.js';
import type { EconomyDocument } from './schema.js';
import { durationMs } from './shapes.js';

export function assetsCompile(refs: References): void {
  for (const [id, currency] of Object.entries(refs.document.currencies ?? {})) currencyCompile(refs, id, currency);
  const items = Object.entries(refs.document.items ?? {});
  for (const [id, item] of items) {
    if (refs.currencies.has(id))
      refs.issue(
        'duplicate-id',
        ['items', id],
        `"${id}" is also a currency`,
        'Rename one of them: currencies and items share their ids.',
      );
    refs.items.set(id, {
      id,
      name: item.name,
      kind: item.kind,
      group: item.group,
      carry: item.carry,
      stack: item.stack,
      worth: {},
      contents: {},
    });
  }
  const gives = new Map<string, Basket>();
  const groups = new Map(Object.entries(refs.document.groups ?? {}));
  for (const [id, document] of items) {
    const item = refs.items.get(id)!;
    item.worth = refs.fixedBasket(document.worth, ['items', id, 'worth']);
    gives.set(id, refs.fixedBasket(document.gives, ['items', id, 'gives']));
    if (document.group !== undefined) refs.refers(groups, 'group', document.group, ['items', id, 'group']);
    if (document.gives && document.kind !== 'bundle')
      refs.issue(
        'wrong-value',
        ['items', id, 'gives'],
        'only a bundle gives a basket',
        'Set kind: bundle, or remove gives.',
      );
    if (document.kind === 'bundle' && Object.keys(document.gives ?? {}).length === 0)
      refs.issue(
        'missing-field',
        ['items', id],
        `the bundle "${id}" gives nothing`,
        'Write gives: {...} with what it unpacks into.',
      );
  }
  contentsCompile(refs, gives);
}

function currencyCompile(
  refs: References,
  id: string,
  written: NonNullable<EconomyDocument['currencies']>[string],
): void {
  const decimals = written.decimals ?? 0;
  const at = ['currencies', id];
  const optional = (field: 'start' | 'cap') =>
    written[field] === undefined ? undefined : refs.units(written[field], decimals, [...at, field]);
  const { refill } = written;
  const cap = optional('cap');
  refs.currencies.set(id, {
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
      amount: refs.units(refill.amount, decimals, [...at, 'refill', 'amount']),
      everyMs: durationMs(refill.every)!,
      upTo: refs.units(refill.upTo, decimals, [...at, 'refill', 'upTo']),
    },
  });
  const currency = refs.currencies.get(id)!;
  if (cap !== undefined && currency.start > cap)
    refs.issue('wrong-value', [...at, 'start'], 'a new player starts above the cap', 'Lower start, or raise cap.');
  if (cap !== undefined && currency.refill && currency.refill.upTo > cap)
    refs.issue('wrong-value', [...at, 'refill', 'upTo'], 'the refill runs above the cap', 'Lower upTo, or raise cap.');
  if (refill && currency.refill!.amount === 0)
    refs.issue('bad-amount', [...at, 'refill', 'amount'], 'the refill brings nothing', 'Write an amount above 0.');
}

/**
 * What each bundle unpacks into in the end. Every bundle is worked out once, however often others hold it. One
 * that holds itself would never finish unpacking: the circle is cut and reported.
 */
function contentsCompile(refs: References, gives: ReadonlyMap<string, Basket>): void {
  const done = new Set<string>();
  const open: string[] = [];
  const contents = (id: string): Basket => {
    const item = refs.items.get(id)!;
    if (done.has(id)) return item.contents;
    if (open.includes(id)) {
      refs.issue(
        'circular-bundle',
        ['items', open.at(-1)!, 'gives', id],
        `the bundle holds itself: ${[...open.slice(open.indexOf(id)), id].join(' > ')}`,
        'Take it out of one of them.',
      );
      return {};
    }
    open.push(id);
    for (const [inner, units] of Object.entries(gives.get(id) ?? {})) {
      const unpacked = refs.items.get(inner)?.kind === 'bundle' ? contents(inner) : { [inner]: 1 };
      for (const [asset, each] of Object.entries(unpacked)) {
        if (!basketAdd(item.contents, asset, each * units))
          refs.issue('bad-amount', ['items', id, 'gives'], `it holds more ${asset} than the ceiling`, 'Hold fewer.');
      }
    }
    open.pop();
    done.add(id);
    return item.contents;
  };
  for (const [id, { kind }] of refs.items) if (kind === 'bundle') contents(id);
}
