/** Small economies for tests, written as YAML. */
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { economyCompile, economyLoad } from '../../src/core/economy/index.js';
import type { Economy, EconomyLoaded } from '../../src/core/economy/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import type { SourceFile } from '../../src/core/files/index.js';
import { offerAsset, playerAccount, stockAccount, tillAccount } from '../../src/core/ledger/index.js';
import { playerHolds, playerMadeUp } from '../../src/core/player/index.js';
import type { Player } from '../../src/core/player/index.js';
import type { Shared } from '../../src/core/trade/index.js';
import { RunFile } from './runFile.js';

export const DEMO_FOLDER = join(__dirname, '../../demo/saltwind-cove');

/** 2027-03-01 09:00 in Lisbon, where winter time is UTC. */
export const NOW = Date.UTC(2027, 2, 1, 9);
export const MINUTE = 60_000;
export const HOUR = 60 * MINUTE;
export const DAY = 24 * HOUR;

const HEAD = 'name: Test cove\ntimeZone: Europe/Lisbon\n';

/** What was loaded; fails loudly when the YAML has any issue. */
function loadedOf(yaml: string): EconomyLoaded {
  const loaded = economyLoad([{ path: 'test.yaml', text: HEAD + yaml }]);
  if (loaded.issues.length > 0) throw new Error(JSON.stringify(loaded.issues, null, 2));
  return loaded;
}
export const economyOf = (yaml: string): Economy => loadedOf(yaml).economy!;

export function issuesOf(yaml: string): { code: string; pointer: string; line?: number }[] {
  return economyLoad([{ path: 'test.yaml', text: HEAD + yaml }]).issues.map(({ code, pointer, place }) => ({
    code,
    pointer,
    ...(place ? { line: place.line } : {}),
  }));
}

/** The document alone; fails loudly when the YAML has any issue. */
export function documentOf(yaml: string): EconomyDocument {
  return loadedOf(yaml).document!;
}

export function demoFiles(): SourceFile[] {
  return readdirSync(DEMO_FOLDER).map((path) => ({ path, text: readFileSync(join(DEMO_FOLDER, path), 'utf8') }));
}

const demoRead = new RunFile('demo.json');

/** A copy, to be changed at will. Its files are read once in a test run: that takes longer than most tests. */
export function demoDocument(): EconomyDocument {
  const json = demoRead.get() ?? demoRead.keep(Buffer.from(JSON.stringify(economyLoad(demoFiles()).document)));
  return JSON.parse(json.toString()) as EconomyDocument;
}

/** The same object for all: nothing in core alters an economy. */
let demoCompiled: Economy | undefined;
export const demoEconomy = (): Economy => (demoCompiled ??= economyCompile(demoDocument()).economy!);

/** A made-up player who holds exactly this. */
export function playerWith(economy: Economy, holds: Record<string, number>, attributes = {}): Player {
  const empty = Object.fromEntries([...economy.currencies.keys()].map((id) => [id, 0]));
  return playerMadeUp(economy, { attributes, holds: { ...empty, ...holds } }, NOW);
}

/** Everything that is held, by the ledger's accounts: what movements must come to. */
export function holdingsOf(economy: Economy, player: Player, shared: Shared): Map<string, Map<string, number>> {
  const assets = [...economy.currencies.keys(), ...economy.items.keys()];
  return new Map([
    [playerAccount(player.id), new Map(assets.map((asset) => [asset, playerHolds(economy, player, asset)]))],
    ...Object.entries(shared.tills).map(
      ([shop, drawers]) =>
        [tillAccount(shop), new Map(Object.entries(drawers).map(([asset, { units }]) => [asset, units]))] as const,
    ),
    ...Object.entries(shared.stocks).map(
      ([offer, { units }]) => [stockAccount(offer), new Map([[offerAsset(offer), units]])] as const,
    ),
  ]);
}
