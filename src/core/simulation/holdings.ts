/** What players hold, and what came of them, in columns that several blocks of players can be joined to. */

/** What players hold at the end of a day, `player * currencies + currency`, and who of them is still there. */
export interface Holdings {
  balances: Float64Array;
  here: Uint8Array;
}

/** What is known of each player at the end. Days of things count from 1, `player * items + item`; 0 where never. */
export interface PlayerEnds {
  lastDay: Int32Array;
  balances: Float64Array;
  ownedDay: Int32Array;
  affordedDay: Int32Array;
  /** The same of goals and levels, `player * steps + step`. */
  stepDay: Int32Array;
  /** On how many days a player went shopping, and met each watched reason, `player * watched + reason`. */
  shopDays: Int32Array;
  reasonDays: Int32Array;
}

const joined = <T extends Float64Array | Int32Array | Uint8Array>(all: readonly T[]): T => {
  const sum = new (all[0]!.constructor as new (length: number) => T)(
    all.reduce((total, { length }) => total + length, 0),
  );
  let at = 0;
  for (const one of all) {
    sum.set(one, at);
    at += one.length;
  }
  return sum;
};

/** What players of several blocks hold, in their order. */
export const holdingsJoined = (all: readonly Holdings[]): Holdings => ({
  balances: joined(all.map(({ balances }) => balances)),
  here: joined(all.map(({ here }) => here)),
});

export const endsJoined = (all: readonly PlayerEnds[]): PlayerEnds => ({
  lastDay: joined(all.map(({ lastDay }) => lastDay)),
  balances: joined(all.map(({ balances }) => balances)),
  ownedDay: joined(all.map(({ ownedDay }) => ownedDay)),
  affordedDay: joined(all.map(({ affordedDay }) => affordedDay)),
  stepDay: joined(all.map(({ stepDay }) => stepDay)),
  shopDays: joined(all.map(({ shopDays }) => shopDays)),
  reasonDays: joined(all.map(({ reasonDays }) => reasonDays)),
});
