/** A check against an economy folder, for a build pipeline: apart, since it alone needs the engine. */
import { playerDescribed } from '../described.js';
import { documentLabels } from '../../core/texts/amounts.js';
import type { Profile } from '../../core/player/index.js';
import { instantRead } from '../../core/schedule/index.js';
import { verdictTell } from '../../core/storefront/index.js';
import type { OfferTold } from '../../core/storefront/index.js';
import { economyLabels, verdictExplain } from '../../core/texts/index.js';
import type { AssetLabels, ExplainedVerdict } from '../../core/texts/index.js';
import { UNTOUCHED, purchaseCheck } from '../../core/trade/index.js';
import type { PurchaseRequest } from '../../core/trade/index.js';
import { UsageProblem } from '../context.js';
import { folderLoad } from '../folder.js';

/** What a check says, wherever it was made. */
export interface Checked {
  verdict: ExplainedVerdict;
  told?: Pick<OfferTold, 'ask' | 'refusals'> | undefined;
  labels: AssetLabels;
  zone: string;
}

interface Asked {
  /** Now by default. */
  at: string | undefined;
  language: string | undefined;
  /** Amounts are read with the labels of the economy. */
  read(labels: AssetLabels): { request: PurchaseRequest; profile: Profile };
}

/** The same pure check as the service's, on files. */
export function checkFolder(folder: string, { at, language, read }: Asked): Checked {
  const { document, economy } = folderLoad(folder);
  const { request, profile } = read(documentLabels(document));
  const instant = instantRead(document.timeZone, at ?? new Date().toISOString());
  if (!instant) throw new UsageProblem(`"${at}" is not an instant. Write it as 2027-03-01T09:00.`);
  const held = playerDescribed(economy!, profile, instant.ms);
  const verdict = verdictExplain(economy!, purchaseCheck(economy!, held, UNTOUCHED, request, instant.ms));
  return {
    verdict,
    told: language === undefined ? undefined : verdictTell(economy!, verdict, language),
    labels: economyLabels(economy!),
    zone: document.timeZone,
  };
}
