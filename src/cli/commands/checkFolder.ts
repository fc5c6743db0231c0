/** A check and a shop's front on an economy folder, for a build pipeline: apart, since they alone need the engine. */
import { instantAsked, playerDescribed } from '../described.js';
import { documentLabels } from '../../core/texts/amounts.js';
import type { Profile } from '../../core/player/index.js';
import { frontMake, frontTell, verdictTell } from '../../core/storefront/index.js';
import type { OfferTold } from '../../core/storefront/index.js';
import { economyLabels, verdictExplain } from '../../core/texts/index.js';
import type { AssetLabels, ExplainedVerdict } from '../../core/texts/index.js';
import { UNTOUCHED, purchaseCheck } from '../../core/trade/index.js';
import type { PurchaseRequest } from '../../core/trade/index.js';
import { folderLoad, notThere } from '../folder.js';

/** What a check says, wherever it was made. */
export interface Checked {
  verdict: ExplainedVerdict;
  told?: Pick<OfferTold, 'ask' | 'refusals'> | undefined;
  labels: AssetLabels;
  zone: string;
}

interface Asked<T> {
  /** Now by default. */
  at: string | undefined;
  language: string | undefined;
  /** Amounts are read with the labels of the economy. */
  read(labels: AssetLabels): T & { profile: Profile };
}

/** The same pure check as the service's, on files. */
export function checkFolder(folder: string, asked: Asked<{ request: PurchaseRequest }>): Checked {
  const { economy, request, player, atMs, labels, zone } = folderAsked(folder, asked);
  const verdict = verdictExplain(economy, purchaseCheck(economy, player, UNTOUCHED, request, atMs));
  const told = asked.language === undefined ? undefined : verdictTell(economy, verdict, asked.language);
  return { verdict, told, labels, zone };
}

/** A shop on files, as a player sees it to whom nobody has sold anything yet. */
export function frontFolder(folder: string, shop: string, asked: Asked<object>) {
  const { economy, player, atMs, labels, zone } = folderAsked(folder, asked);
  const found = economy.shops.get(shop);
  if (!found) throw notThere('shop', shop, economy.shops.keys());
  const seen = frontMake(economy, found, player, UNTOUCHED, atMs);
  const front = asked.language === undefined ? seen : frontTell(economy, seen, asked.language);
  return { front: { release: null, ...front }, labels, zone };
}

function folderAsked<T>(folder: string, { at, read }: Asked<T>) {
  const { document, economy } = folderLoad(folder);
  const { profile, ...asked } = read(documentLabels(document));
  const atMs = instantAsked(document.timeZone, at);
  const player = playerDescribed(economy, profile, atMs);
  return { ...asked, economy, player, atMs, labels: economyLabels(economy), zone: document.timeZone };
}
