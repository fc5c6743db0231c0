// The economy of loop.mjs by hand once more, in JavaScript: what code that is written for one economy alone, and counts
// nothing but its sums, leaves between the engine and the loop in C.
const [SESSIONS, PLAY, EVENT, VISIT, OFFERS] = [2, 3, 4, 5, 40];
const [DAY, MINUTE, REFILL, UP_TO] = [86_400_000, 60_000, 20 * 60_000, 6];

// The two lanes of the key at hand, as loop.c has them.
let high = 0;
let low = 0;
function add(whole) {
  let h = high ^ whole;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  h ^= h >>> 16;
  let l = (low + 0x9e3779b9) ^ h;
  l = Math.imul(l ^ (l >>> 16), 0x21f0aaad);
  l = Math.imul(l ^ (l >>> 15), 0x735a2d97);
  l ^= l >>> 15;
  high = (h + ((l << 13) | (l >>> 19))) | 0;
  low = l;
}
const number = () => (high >>> 5) * 2 ** -27 + (low >>> 6) * 2 ** -53;
function text(words) {
  high = low = 0;
  for (let i = 0; i < words.length; i++) add(words.charCodeAt(i));
  add(~words.length);
  return [high, low];
}
const [RACER, WINNER] = [text('racer'), text('winners_pearl')];
const LUCK = Int32Array.from({ length: OFFERS }, (_, n) => text(`sail_${n}`)[1]);
const PRICE = Float64Array.from({ length: OFFERS }, (_, n) => 30 + 37 * n);

export function play(players, days, startMs) {
  const column = () => new Float64Array(players);
  const [shells, breeze, since, pearlDay, walks, walkDay] = [
    column(),
    column(),
    column(),
    column(),
    column(),
    column(),
  ];
  const owned = new Uint8Array(players * OFFERS);
  const [keyHigh, keyLow] = [new Int32Array(players), new Int32Array(players)];
  const found = new Int32Array(OFFERS);
  let [events, purchases] = [0, 0];
  const settle = (p, now) => {
    if (breeze[p] >= UP_TO) return;
    const intervals = Math.floor((now - since[p]) / REFILL);
    if (intervals <= 0) return;
    breeze[p] += Math.min(intervals, UP_TO - breeze[p]);
    since[p] += intervals * REFILL;
  };
  const begin = (p) => {
    high = keyHigh[p];
    low = keyLow[p];
  };
  for (let p = 0; p < players; p++) {
    high = low = 0;
    for (const part of [0, 7, ...RACER, p]) add(part);
    keyHigh[p] = high;
    keyLow[p] = low;
    shells[p] = 60;
    breeze[p] = 5;
    since[p] = startMs;
    pearlDay[p] = walkDay[p] = -1;
  }
  for (let day = 0; day < days; day++)
    for (let p = 0; p < players; p++) {
      begin(p);
      add(SESSIONS);
      add(day);
      add(0);
      let now = Math.floor(startMs + day * DAY + (9 + number() * 12) * 3_600_000);
      const end = now + 30 * MINUTE;
      settle(p, now);
      begin(p);
      add(PLAY);
      add(day);
      add(0);
      const [turnHigh, turnLow] = [high, low];
      begin(p);
      add(EVENT);
      add(day);
      add(0);
      const [eventHigh, eventLow] = [high, low];
      for (let turn = 0; now < end; turn++) {
        high = turnHigh;
        low = turnLow;
        add(turn);
        let drawn = 0;
        add(drawn++);
        const left = number() * ((breeze[p] >= 1 ? 3 : 0) + 2);
        const races = breeze[p] >= 1 && left < 3;
        now += (races ? 4 : 6) * MINUTE;
        settle(p, now);
        events++;
        if (races) {
          if (breeze[p] >= UP_TO) since[p] = now;
          breeze[p] -= 1;
          add(drawn++);
          const pick = number() * 100;
          const place = pick < 18 ? 1 : pick < 40 ? 2 : pick < 60 ? 3 : pick < 80 ? 4 : 5;
          add(drawn++);
          const difficulty = 1 + Math.floor(number() * 3);
          shells[p] += Math.floor((place === 1 ? 30 : place <= 3 ? 18 : 8) * (1 + 0.25 * (difficulty - 1)) + 1e-9);
          if (place !== 1 || pearlDay[p] === day) continue;
          high = eventHigh;
          low = eventLow;
          add(turn);
          add(0);
          add(WINNER[0]);
          add(WINNER[1]);
          if (number() < 0.2) pearlDay[p] = day;
        } else {
          let finds = 0;
          add(drawn++);
          for (let sum = -Math.log1p(-number()); sum <= 2.5; finds++) {
            add(drawn++);
            sum -= Math.log1p(-number());
          }
          if (walkDay[p] !== day) {
            walkDay[p] = day;
            walks[p] = 0;
          }
          if (walks[p] < 6) {
            walks[p]++;
            shells[p] += 3 * finds;
          }
        }
      }
      begin(p);
      add(VISIT);
      add(day);
      add(0);
      const [visitHigh, visitLow] = [high, low];
      let count = 0;
      for (let offer = 0; offer < OFFERS; offer++) {
        if (shells[p] < PRICE[offer]) continue;
        high = visitHigh;
        low = visitLow;
        add(LUCK[offer]);
        if (number() < 0.08 && owned[p * OFFERS + offer] === 0 && shells[p] - PRICE[offer] >= 20)
          found[count++] = offer;
      }
      for (let i = 0; i < count; i++) {
        if (shells[p] - PRICE[found[i]] < 20) continue;
        shells[p] -= PRICE[found[i]];
        owned[p * OFFERS + found[i]] = 1;
        purchases++;
      }
    }
  return [events, purchases, shells.reduce((sum, units) => sum + units, 0)];
}
