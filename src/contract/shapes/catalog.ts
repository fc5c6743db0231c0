/** Edits as a caller sends them, and what the designer's questions are answered with. */
import { EDIT_KINDS } from '../../core/catalog/index.js';
import type {
  AssetFlow,
  Edit,
  FlowLine,
  FormulaTried,
  FormulaValue,
  MoneyRow,
  RoundTo,
} from '../../core/catalog/index.js';
import type { AssetOdds, LootOdds } from '../../core/loot/index.js';
import {
  anyKeys,
  anyNumber,
  anyText,
  anyWhole,
  checked,
  choice,
  exactly,
  fields,
  finiteNumber,
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
import { inputs, listed, profile } from './common.js';
import { anything } from './draft.js';
import { overrides } from './run.js';

const pointer = () => text(500);
const round = () => shapeOf<RoundTo>({ to: anyNumber(0, 1e9), way: choice('up', 'down', 'nearest') });

/** Things by section and id: what each may hold the whole document's schema says. */
const things = () =>
  mapOf(mapOf(anything(), anyKeys, 10_000), anyKeys, 100) as unknown as Shape<Record<string, Record<string, unknown>>>;

type EditShapes = { [K in Edit['kind']]: { readonly [F in keyof Extract<Edit, { kind: K }>]-?: Shape<unknown> } };
const EDITS: EditShapes = {
  remove: { kind: exactly('remove'), pointer: pointer(), mend: maybe(yesNo()) },
  duplicate: { kind: exactly('duplicate'), pointer: pointer(), name: maybe(text(120)) },
  move: { kind: exactly('move'), pointer: pointer(), into: maybe(text(500)), before: maybe(text(64)) },
  reprice: {
    kind: exactly('reprice'),
    where: fields({
      ids: listOf(text(64), { most: 10_000, of: 'ids' }),
      group: text(64),
      tag: text(64),
      shop: text(64),
    }),
    of: maybe(choice('items', 'offers', 'both')),
    asset: maybe(text(64)),
    percent: anyNumber(-100, 1_000_000),
    round: maybe(round()),
  },
  ladder: {
    kind: exactly('ladder'),
    at: listOf(text(500), { most: 10_000, of: 'pointers' }),
    first: anyNumber(0, 1e15),
    factor: anyNumber(0, 1e6),
    preferred: maybe(yesNo()),
  },
  tiers: {
    kind: exactly('tiers'),
    pointer: pointer(),
    tiers: listOf(record({ count: wholeNumber(1, 1_000_000), discount: anyNumber(0, 100) }), {
      most: 20,
      of: 'tiers',
    }),
    round: maybe(round()),
  },
  set: { kind: exactly('set'), pointer: pointer(), value: maybe(anything()) },
  adjust: { kind: exactly('adjust'), set: overrides() },
  put: { kind: exactly('put'), things: things() },
};
export const edit = named(
  'Edit',
  tagged<Edit>(
    'kind',
    Object.fromEntries(
      EDIT_KINDS.map((kind) => [kind, record(EDITS[kind] as unknown as Record<string, Shape<unknown>>)]),
    ),
  ),
);

const line = {
  pointer: anyText(),
  name: anyText(),
  words: anyText(),
};
export const flow = named(
  'Flow',
  shapeOf<AssetFlow>({
    asset: anyText(),
    name: anyText(),
    sources: listed('lines', shapeOf<FlowLine>(line)),
    sinks: listed('lines', shapeOf<FlowLine>(line)),
    buys: listed('lines', record({ ...line, units: orNull(anyWhole()) })),
  }),
);
export const moneyRow = named(
  'MoneyRow',
  shapeOf<MoneyRow>({
    offer: anyText(),
    name: anyText(),
    code: anyText(),
    gross: anyWhole(),
    store: orNull(anyText()),
    product: orNull(anyText()),
    tax: anyWhole(),
    fee: anyWhole(),
    net: anyWhole(),
  }),
);
const numberOrTruth = () =>
  checked<number | boolean>({ type: ['number', 'boolean'] }, (value) =>
    typeof value === 'number' || typeof value === 'boolean'
      ? undefined
      : { problem: 'no value', fix: 'See the schema.' },
  );
export const formulaValue = named(
  'FormulaValue',
  shapeOf<FormulaValue>({
    pointer: anyText(),
    formula: anyText(),
    value: orNull(numberOrTruth()),
    problem: orNull(anyText()),
    inputs: inputs(),
  }),
);
export const formulaAsked = fields({
  formula: anyText().required(),
  gives: choice('truth', 'number').required(),
  event: text(64),
  player: text(64),
  profile,
});
export const formulaTried = named(
  'FormulaTried',
  tagged<FormulaTried>('kind', {
    value: record({
      kind: exactly('value'),
      value: numberOrTruth(),
      inputs: inputs(),
      curves: listed(
        'curves',
        record({
          name: anyText(),
          points: listed('points', record({ at: finiteNumber(), value: orNull(finiteNumber()) })),
        }),
      ),
    }),
    later: record({ kind: exactly('later') }),
    none: record({ kind: exactly('none'), problem: anyText(), inputs: inputs() }),
    wrong: record({ kind: exactly('wrong'), at: anyWhole(), problem: anyText(), fix: anyText() }),
  }),
);
export const formulaValues = named(
  'FormulaValues',
  record({ revision: anyWhole(), values: listed('values', formulaValue) }),
);

const needed = {
  mean: orNull(finiteNumber()),
  half: orNull(anyWhole()),
  nine: orNull(anyWhole()),
  most: orNull(anyWhole()),
};
const assetOdds = named(
  'AssetOdds',
  shapeOf<AssetOdds>({
    asset: anyText(),
    chance: finiteNumber(),
    expected: finiteNumber(),
    longRunChance: finiteNumber(),
    longRunExpected: finiteNumber(),
    openings: record(needed),
    curve: listed('points', record({ openings: anyWhole(), share: finiteNumber() })),
  }),
);
export const odds = named(
  'Odds',
  shapeOf<LootOdds>({
    table: anyText(),
    name: anyText(),
    picks: record({ from: anyWhole(), to: anyWhole() }),
    entries: listed('entries', record({ id: anyText(), weight: finiteNumber(), times: finiteNumber() })),
    nothing: finiteNumber(),
    guarantee: orNull(record({ entry: anyText(), within: anyWhole() })),
    once: listed('entries', anyText()),
    assets: listed('assets', assetOdds),
    together: orNull(record({ assets: listed('assets', anyText()), ...needed })),
  }),
);

const pictureSaved = { name: anyText(), type: anyText(), hash: anyText() };
export const picture = named('Picture', record({ ...pictureSaved, savedMs: anyWhole(), savedBy: anyText() }));
export const pictureStored = named('PictureStored', record(pictureSaved));
export type PictureRow = ValueOf<typeof picture>;
export type ValuesView = ValueOf<typeof formulaValues>;
