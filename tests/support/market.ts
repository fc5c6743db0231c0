/** Small random markets: offers, exchanges, buybacks, bundles, uses, boxes, sales, goals and levels, without the time that play takes. */
import fc from 'fast-check';

const whole = (min: number, max: number) => fc.integer({ min, max });
const one = fc.constantFrom;
const seldom = (arb: fc.Arbitrary<string>, of: number) =>
  fc.oneof({ weight: of - 1, arbitrary: fc.constant('') }, { weight: 1, arbitrary: arb });

const CURRENCIES = ['shells', 'pearls', 'ribbons'] as const;
const ITEMS = ['frame', 'sail', 'wax', 'kit', 'pill', 'flask', 'crate'] as const;

const amount = (asset: fc.Arbitrary<string>, least: number, most: number) =>
  fc.tuple(asset, whole(least, most)).map(([id, units]) => `${id}: ${units}`);
const formula = fc
  .tuple(
    one('shells', 'pearls'),
    one(
      'if(level >= N, A, B)',
      'max(A, B - owned(wax))',
      'max(A, B - bought(ID))',
      'A + owned(sail)',
      "if(team == 'harbour', A, B)",
      'max(A, B - balance(ribbons))',
      'if(N <= level, A, B)',
      'A + level',
    ),
    whole(2, 6),
    whole(4, 20),
    whole(20, 60),
  )
  .map(
    ([asset, text, n, a, b]) => `${asset}: "=${text.replace('N', `${n}`).replace('A', `${a}`).replace('B', `${b}`)}"`,
  );
const price = fc.oneof(
  { weight: 5, arbitrary: amount(one(...CURRENCIES), 8, 60) },
  { weight: 2, arbitrary: formula },
  { weight: 1, arbitrary: fc.tuple(whole(5, 30), whole(1, 5)).map(([a, b]) => `shells: ${a}, wax: ${b}`) },
);
const gives = fc.oneof(
  { weight: 6, arbitrary: one(...ITEMS).map((id) => `${id}: 1`) },
  { weight: 2, arbitrary: amount(one(...CURRENCIES), 1, 12) },
  { weight: 1, arbitrary: fc.tuple(one('frame', 'sail'), whole(1, 3)).map(([id, wax]) => `${id}: 1, wax: ${wax}`) },
  { weight: 1, arbitrary: one('wax: "=1 + level"', 'pearls: "=if(level >= 4, 3, 1)"') },
);
const more = fc
  .tuple(
    seldom(one('limits: {lifetime: 2}', 'limits: {day: 3}'), 6),
    seldom(one('when: "=level >= 2"', 'when: "=owned(frame) > 0"'), 6),
    seldom(fc.constant('stock: {units: 4}'), 8),
  )
  .map((parts) => parts.filter(Boolean).join(', '));
const offer = fc
  .tuple(gives, price, more)
  .map(([given, asked, rest]) => `{gives: {${given}}, price: {${asked}}${rest ? `, ${rest}` : ''}}`);
const buyback = fc
  .tuple(one('groups: [kites]', 'items: [wax]', 'items: [frame, sail]'), one(0.2, 0.5, 0.8, 1), one('worth', 'paid'))
  .map(([what, rate, of]) => `{${what}, rate: ${rate}, of: ${of}}`);
const goal = fc
  .tuple(
    one(
      'counts: purchases, groups: [kites]',
      'counts: spent, currency: shells',
      'counts: owned, items: [wax]',
      'counts: earned, currency: pearls',
      'counts: attribute, attribute: level',
      'counts: owned, groups: [kites], distinct: true',
    ),
    whole(2, 9),
    amount(one(...CURRENCIES, 'wax', 'crate'), 1, 20),
    seldom(one('sets: {level: 5}', 'every: week'), 3),
  )
  .map(
    ([counts, target, given, rest]) =>
      `{name: G, ${counts}, target: ${target}, gives: {${given}}${rest ? `, ${rest}` : ''}}`,
  );

/** An economy as YAML; about every third of them is found to be sound. */
export const market: fc.Arbitrary<string> = fc
  .record({
    offers: fc.array(offer, { minLength: 3, maxLength: 7 }),
    second: fc.array(offer, { maxLength: 2 }),
    buybacks: fc.tuple(buyback, seldom(buyback, 3)),
    worths: fc.tuple(whole(4, 30), whole(2, 20), whole(1, 8)),
    kit: fc.tuple(whole(1, 2), whole(1, 3)),
    flask: one('{shells: 3}', '{pearls: "=level"}', '{shells: "=if(owned(frame) > 1, 30, 2)"}', '{wax: 2}'),
    crate: one('{wax: 2, shells: 4}', '{frame: 1}', '{pearls: 2}'),
    sale: seldom(
      whole(20, 80).map((percent) => `sales: {s: {name: Sale, shops: [one], percent: ${percent}}}`),
      3,
    ),
    goals: fc.array(goal, { maxLength: 2 }),
    track: seldom(
      fc
        .tuple(whole(2, 20), whole(1, 12))
        .map(
          ([costs, gift]) =>
            `tracks: {t: {name: T, earns: pearls, attribute: level, levels: {"2": {costs: ${costs}, gives: {shells: ${gift}}}, "3": {costs: ${costs}}}}}`,
        ),
      3,
    ),
  })
  .map(({ offers, second, buybacks, worths, kit, flask, crate, sale, goals, track }) => {
    const shelf = (list: readonly string[], key: string) =>
      list.map((text, n) => `${key}${n}: ${text.replaceAll('ID', `${key}${n}`)}`).join(', ');
    return `
attributes: {level: {start: 1}, team: {start: none}}
groups: {kites: {name: Kites}}
events: {race: {}}
earning: {prize: {name: Prize, on: race, gives: {shells: 5, pearls: 1, ribbons: 1}}}
currencies: {shells: {name: Shells, start: 50}, pearls: {name: Pearls}, ribbons: {name: Ribbons, cap: 400}}
items:
  frame: {name: Frame, kind: durable, carry: 6, group: kites, worth: {shells: ${worths[0]}}}
  sail: {name: Sail, kind: durable, carry: 9, group: kites, worth: {shells: ${worths[1]}}}
  wax: {name: Wax, kind: consumable, carry: 60, group: kites, worth: {shells: ${worths[2]}}}
  kit: {name: Kit, kind: bundle, gives: {frame: ${kit[0]}, wax: ${kit[1]}}}
  pill: {name: Pill, kind: consumable, carry: 9, onUse: {set: {level: "=level + 1"}}}
  flask: {name: Flask, kind: consumable, carry: 9, onUse: {gives: ${flask}}}
  crate: {name: Crate, kind: box, carry: 9, gives: ${crate}}
shops:
  one: {name: One, buyback: ${buybacks[0]}, shelves: {m: {name: M, offers: {${shelf(offers, 'a')}}}}}
  two: {name: Two, ${buybacks[1] ? `buyback: ${buybacks[1]}, ` : ''}shelves: {m: {name: M, offers: {${shelf(second, 'b')}}}}}
${sale}
goals: {${goals.map((text, n) => `g${n}: ${text}`).join(', ')}}
${track}
`;
  });
