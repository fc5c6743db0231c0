/** Verdicts, storefronts, and what purchases and acts are answered with. */
import type { Front, FrontChoice, FrontOffer, FrontShelf, OfferTold } from '../../core/storefront/index.js';
import type { Explained, ExplainedVerdict } from '../../core/texts/index.js';
import { ACT_KINDS, MAX_TIMES, REASONS } from '../../core/trade/index.js';
import type {
  ActVerdict,
  LimitLeft,
  PriceBreakdown,
  Reason,
  ReasonCode,
  SalePrice,
  Step,
  StockLeft,
} from '../../core/trade/index.js';
import {
  anyKeys,
  anyText,
  anyWhole,
  choice,
  exactly,
  fields,
  listOf,
  mapOf,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
  tagged,
  text,
  wholeNumber,
  yesNo,
} from '../../core/schema/index.js';
import type { Shape, ValueOf } from '../../core/schema/index.js';
import { goals, progress, tracks } from './progress.js';
import { amounts, inputs, keptOut, listed, profile, texts, unitsBasket, values } from './common.js';

const instantMs = () => orNull(anyWhole());

const reason = named(
  'Reason',
  tagged<Reason & { sentence: string }>(
    'code',
    Object.fromEntries(
      (Object.keys(REASONS) as ReasonCode[]).map((code) => [
        code,
        record({ code: exactly(code), ...REASONS[code], sentence: anyText() } as Record<string, Shape<unknown>>),
      ]),
    ),
  ),
);
export const reasons = () => listed('reasons', reason);

const salePrice = shapeOf<SalePrice>({ id: anyText(), name: anyText(), price: amounts(), endsMs: instantMs() });
const price = named(
  'Price',
  shapeOf<PriceBreakdown>({
    pay: anyText(),
    base: amounts(),
    total: amounts(),
    inputs: inputs(),
    steps: maybe(
      listOf(shapeOf<Step>({ times: anyWhole(), cost: amounts(), gives: amounts() }), { most: MAX_TIMES, of: 'steps' }),
    ),
    expected: maybe(amounts()),
    sale: maybe(salePrice),
    passedOver: maybe(listed('sales', salePrice)),
    money: maybe(amounts()),
  }),
);
const limitLeft = shapeOf<LimitLeft>({
  period: anyText(),
  most: anyWhole(),
  used: anyWhole(),
  left: anyWhole(),
  resetsMs: instantMs(),
});
const stockLeft = shapeOf<StockLeft>({ left: anyWhole(), scope: choice('shared', 'player'), restocksMs: instantMs() });

const verdictFields = {
  allowed: yesNo(),
  reasons: reasons(),
  offer: anyText(),
  name: anyText(),
  shop: anyText(),
  times: anyWhole(),
  atMs: anyWhole(),
  choices: listed(
    'choices',
    record({ pay: anyText(), total: amounts(), money: maybe(amounts()), before: maybe(amounts()) }),
  ),
  price: orNull(price),
  gives: amounts(),
  before: amounts(),
  after: amounts(),
  limits: listed('limits', limitLeft),
  stock: orNull(stockLeft),
};
export const verdict = named('Verdict', shapeOf<ExplainedVerdict>(verdictFields));
export const actVerdict = named(
  'ActVerdict',
  shapeOf<Explained<ActVerdict>>({
    act: choice(...ACT_KINDS),
    allowed: yesNo(),
    reasons: reasons(),
    item: anyText(),
    name: anyText(),
    shop: orNull(anyText()),
    times: anyWhole(),
    atMs: anyWhole(),
    takes: amounts(),
    gives: amounts(),
    expected: maybe(amounts()),
    before: amounts(),
    after: amounts(),
  }),
);

const told = { ask: orNull(anyText()), refusals: texts() };
const offerTold = shapeOf<OfferTold>({
  prices: mapOf(anyText(), anyKeys),
  before: mapOf(anyText(), anyKeys),
  sale: orNull(anyText()),
  ...told,
});
const frontChoice = shapeOf<FrontChoice>({
  pay: anyText(),
  total: amounts(),
  allowed: yesNo(),
  before: maybe(amounts()),
  money: maybe(amounts()),
});
const frontOffer = named(
  'FrontOffer',
  shapeOf<FrontOffer>({
    id: anyText(),
    name: anyText(),
    description: orNull(anyText()),
    badge: orNull(anyText()),
    icon: orNull(anyText()),
    choices: listed('choices', frontChoice),
    verdict,
    told: maybe(offerTold),
  }),
);
const frontShelf = shapeOf<FrontShelf>({
  id: anyText(),
  name: anyText(),
  rotates: maybe(record({ period: anyWhole(), untilMs: anyWhole() })),
  offers: listed('offers', frontOffer),
});
export type FrontView = Front & { release: number | null };
export const front = named(
  'Front',
  shapeOf<FrontView>({
    release: orNull(anyWhole()),
    language: maybe(anyText()),
    wallet: maybe(anyText()),
    shop: anyText(),
    name: anyText(),
    icon: orNull(anyText()),
    player: anyText(),
    atMs: anyWhole(),
    shelves: listed('shelves', frontShelf),
    balances: amounts(),
    affordable: texts(),
    buysBack: listed('items', record({ item: anyText(), held: anyWhole(), pays: amounts(), allowed: yesNo() })),
    goals: goals(),
    tracks: tracks(),
    nextGoal: orNull(record({ offer: anyText(), short: amounts() })),
    changesMs: instantMs(),
  }),
);

export const shop = named('Shop', record({ id: anyText(), name: anyText(), hidden: yesNo(), offers: anyWhole() }));
export type ShopView = ValueOf<typeof shop>;

const times = () => wholeNumber(1, Number.MAX_SAFE_INTEGER);
/** What is to be bought, and what the player was shown. */
const purchase = {
  offer: text(64).required(),
  times: times(),
  pay: text(600),
  expect: unitsBasket(),
};
export const purchaseRequest = named('PurchaseRequest', fields({ player: text(64).required(), ...purchase }));
export const check = named('Check', fields({ ...purchase, player: text(64), profile, at: text(40) }));
export type CheckQuestion = ValueOf<typeof check>;
export const checksAnswer = named(
  'Checks',
  record({
    release: orNull(anyWhole()),
    verdicts: listed(
      'verdicts',
      shapeOf<ExplainedVerdict & { told?: Pick<OfferTold, 'ask' | 'refusals'> }>({
        ...verdictFields,
        told: maybe(record(told)),
      }),
    ),
  }),
);
export const purchaseAnswer = named(
  'Purchase',
  record({
    purchase: anyWhole(),
    release: anyWhole(),
    verdict,
    progress: maybe(progress()),
    /** What formulas of the offer read, and whether it was on show by a pin: for replays. Older answers have neither. */
    reads: maybe(values()),
    pinned: maybe(yesNo()),
  }),
);
export type PurchaseAnswer = ValueOf<typeof purchaseAnswer>;

/** A purchase as it was made, in smallest units. */
export const purchaseRow = named(
  'PurchaseMade',
  record({
    purchase: anyWhole(),
    player: anyText(),
    atMs: anyWhole(),
    release: anyWhole(),
    offer: anyText(),
    times: anyWhole(),
    pay: orNull(anyText()),
    paid: amounts(),
    attributes: values(),
    /** What the player had of everything that it touched, before and after; what formulas read; what was left in stock. */
    known: maybe(
      record({
        before: amounts(),
        after: amounts(),
        reads: values(),
        left: orNull(anyWhole()),
        pinned: yesNo(),
      }),
    ),
  }),
);
export type PurchaseRow = ValueOf<typeof purchaseRow>;

const who = { player: text(64).required(), item: text(64).required() };
export const sellRequest = named(
  'SellRequest',
  fields({ ...who, times: times(), shop: text(64).required(), expect: unitsBasket() }),
);
export const openRequest = named('OpenRequest', fields({ ...who, times: times() }));
export const collectRequest = named('CollectRequest', fields(who));
export const useRequest = named(
  'UseRequest',
  fields({ id: text(200).required(), item: text(64).required(), times: times() }),
);
const actFields = {
  /** 0 where nothing was done: it was refused, or only a preview. */
  act: anyWhole(),
  release: anyWhole(),
  verdict: actVerdict,
  /** What came in the end; of an opening this holds what was drawn. */
  given: amounts(),
  dropped: amounts(),
  keptOut: keptOut(),
  set: values(),
  /** What it did for goals and levels; answers that are older than those have none. */
  progress: maybe(progress()),
};
export const actAnswer = named('Act', record(actFields));
export const usedAnswer = named('Used', record({ id: anyText(), ...actFields }));
export type ActAnswer = ValueOf<typeof actAnswer>;
