// A large catalog made up for benchmarks: `size` items in groups and tags, two offers for every five items, loot
// tables and a buyback. The same size gives the same economy.
export function largeDocument(size) {
  const items = {};
  const shops = {};
  for (let n = 0; n < size; n++)
    items[`thing_${n}`] = {
      name: `Thing ${n}`,
      icon: '🪁',
      description: `One of many, the ${n}th.`,
      kind: n % 7 === 0 ? 'consumable' : 'durable',
      group: `group_${n % 40}`,
      tags: [`tag_${n % 13}`],
      carry: 1 + (n % 9),
      worth: { [n % 5 === 0 ? 'pearls' : 'shells']: 10 + ((n * 37) % 900) },
    };
  const offers = Math.floor((size * 2) / 5);
  for (let s = 0; s < 20; s++) {
    const list = {};
    for (let n = s; n < offers; n += 20)
      list[`offer_${n}`] = {
        gives: `thing_${(n * 5) >> 1}`,
        ...(n % 3 === 0 ? { price: { shells: 20 + ((n * 31) % 950) }, limits: { day: 3 } } : {}),
        ...(n % 11 === 0 ? { when: '=level >= 2' } : {}),
      };
    shops[`shop_${s}`] = {
      name: `Shop ${s}`,
      ...(s % 4 === 0 ? { buyback: { groups: [`group_${s}`], rate: 0.4, pays: 'shells' } } : {}),
      shelves: { main: { name: 'Main', offers: list } },
    };
  }
  return {
    name: 'A large cove',
    timeZone: 'Europe/Lisbon',
    attributes: { level: { start: 1 } },
    groups: Object.fromEntries(Array.from({ length: 40 }, (_, n) => [`group_${n}`, { name: `Group ${n}` }])),
    currencies: { shells: { name: 'Shells', start: 50 }, pearls: { name: 'Pearls', premium: true } },
    items,
    shops,
  };
}
