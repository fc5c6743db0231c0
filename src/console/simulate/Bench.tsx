/** The bench of Simulate: levers on the left, charts on the right, and everything answers the hand. */
import { useMutation } from '@tanstack/react-query';
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { LeverMoved } from '../../core/balance/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { SimulationResult } from '../../core/simulation/index.js';
import { useDraft } from '../api.js';
import type { Drawn } from '../charts/benchFrame.js';
import { saveFile } from '../charts/ChartFrame.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Problem, Waiting } from '../parts/ui.js';
import { BenchDifferences } from './BenchDifferences.js';
import { FirstScenario } from './FirstScenario.js';
import { Levers, MixSliders } from './Levers.js';
import { Made } from './Made.js';
import { PutIntoDraft } from './PutIntoDraft.js';
import { Sensitivity, Tune } from './Search.js';
import { ShownCharts } from './ShownCharts.js';
import { SizeBar } from './SizeBar.js';
import { NotPlayed } from './NotPlayed.js';
import { TargetStrip } from './TargetStrip.js';
import { Variants } from './Variants.js';
import { Ways } from './Ways.js';
import {
  leversRead,
  leversWrite,
  mixRead,
  mixWrite,
  nameFree,
  standText,
  variantsRead,
  variantsWrite,
  wholeOf,
} from './bench.js';
import type { LeverStand, Mix, Variant } from './bench.js';
import type { LeverRead, PlayAsked } from './desk/orders.js';
import { useDesk, useDeskAnswer, useHandRun, useVariantRuns } from './useDesk.js';
import type { DeskFor } from './useDesk.js';

const IN_HAND = 'in hand';
const BEST = 'best so far';
const DRAFT = 'draft';

export function Bench() {
  const document = useDraft().data?.document;
  if (!document) return <Waiting />;
  const scenarios = Object.entries(document.scenarios ?? {});
  if (scenarios.length === 0) return <FirstScenario document={document} />;
  return <WithScenario document={document} />;
}

/** Levers where a search has them. */
const standAt = (levers: readonly LeverStand[], settings: readonly LeverMoved[]): LeverStand[] =>
  levers.map((one) => {
    const setting = settings.find(({ lever }) => lever === one.spec);
    return setting ? { spec: one.spec, value: setting.after === setting.before ? null : setting.after } : one;
  });

/** Levers that stand elsewhere than in the draft, for a run. */
const moved = (levers: readonly LeverStand[]): PlayAsked['levers'] =>
  levers.flatMap(({ spec, value }) => (value === null ? [] : [{ spec, value }]));

function WithScenario({ document }: { document: EconomyDocument }) {
  const at = useDesk(document);
  const setParams = useSetParams();
  const [wanted] = useParam('scenario', '');
  const scenario = document.scenarios?.[wanted] ? wanted : Object.keys(document.scenarios!)[0]!;
  const [days] = useParam('days', '');
  const [players] = useParam('players', '');
  const [seed] = useParam('seed', '');
  const [leversText] = useParam('levers', Object.keys(document.levers ?? {}).join(';'));
  const [mixText] = useParam('mix', '');
  const [variantsText] = useParam('variants', '');
  const levers = useMemo(() => leversRead(leversText), [leversText]);
  const mix = useMemo(() => mixRead(mixText), [mixText]);
  const variants = useMemo(() => variantsRead(variantsText), [variantsText]);

  const size = useMemo(() => {
    const [d, p, s] = [wholeOf(days, 1, 3650), wholeOf(players, 2, 100_000), wholeOf(seed, 0, 4_294_967_295)];
    return {
      scenario,
      ...(d === undefined ? {} : { days: d }),
      ...(p === undefined ? {} : { players: p }),
      ...(s === undefined ? {} : { seed: s }),
    };
  }, [scenario, days, players, seed]);
  const askedOf = (stands: readonly LeverStand[], of: Mix): PlayAsked => ({
    ...size,
    levers: moved(stands),
    ...(of === undefined ? {} : { mix: { ...of } }),
  });
  /** While a search goes on, the best so far is drawn in place of what is in hand. */
  const [best, setBest] = useState<readonly LeverMoved[]>();
  const own = askedOf(levers, mix);
  const asked = best ? askedOf(standAt(levers, best), mix) : own;
  const key = JSON.stringify(asked);
  const isDraft = asked.levers.length === 0 && mix === undefined;
  const same = variants.find((one) => JSON.stringify(askedOf(one.levers, one.mix)) === key);

  const specs = levers.map(({ spec }) => spec);
  const named = { scenario, specs };
  const read = useDeskAnswer(at, 'levers', named, ({ desk, document: about }) => desk.now(about, 'levers', named));
  const offered = useDeskAnswer(at, 'offered', null, ({ desk, document: about }) => desk.now(about, 'offered', null));
  const set = useDeskAnswer(at, 'scenario', size, ({ desk, document: about }) =>
    desk.now(about, 'scenario', { ...size, levers: [] }),
  );
  const full = set.data?.players ?? 0;
  const hand = useHandRun(at, set.data ? asked : undefined, full);

  const inHand = best ? BEST : isDraft ? DRAFT : (same?.name ?? IN_HAND);
  const others = [
    ...(isDraft ? [] : [{ name: DRAFT, levers: [], mix: undefined }]),
    ...variants.filter((one) => one !== same),
  ];
  const runs = useVariantRuns(
    set.data ? at : undefined,
    others.map((one) => askedOf(one.levers, one.mix)),
  );
  const drawn = useSameRuns(
    hand.result
      ? [
          { name: inHand, result: hand.result, preliminary: hand.preliminary },
          ...others.flatMap(({ name }, place) => {
            const result = runs[place]?.data;
            return result && result.days === hand.result!.days ? [{ name, result, preliminary: false }] : [];
          }),
        ]
      : [],
  );

  const put = (
    values: { levers?: readonly LeverStand[]; mix?: Mix; variants?: readonly Variant[] },
    back = true,
  ): void =>
    setParams(
      {
        ...(values.levers ? { levers: leversWrite(values.levers) || NONE } : {}),
        ...('mix' in values ? { mix: mixWrite(values.mix) } : {}),
        ...(values.variants ? { variants: variantsWrite(values.variants) } : {}),
      },
      { back },
    );
  const keep = (name: string, stands: readonly LeverStand[], of: Mix): void =>
    put({ variants: [...variants.filter((one) => one.name !== name), { name, levers: stands, mix: of }] });

  const says = (name: string): string => {
    const kept = others.find((one) => one.name === name) ?? { levers, mix };
    return movedWords(kept.levers, kept.mix, read.data ?? []);
  };
  const search = (desk: DeskFor, { targets, currencies }: SimulationResult) => ({
    at: desk,
    play: own,
    levers: specs,
    targets,
    players: full,
    currencies,
  });
  const [side, setSide] = useParam('side', 'levers');
  const [more, setMore] = useParam('more', '');
  const result = hand.result;
  return (
    <div className="flex flex-col gap-2">
      <SizeBar
        document={document}
        scenario={scenario}
        usual={set.data}
        status={
          hand.problem !== undefined ? null : hand.result === undefined ? (
            'playing the first run'
          ) : (
            <>
              {hand.preliminary && <strong>preliminary: </strong>}
              {hand.result.players.persona.length.toLocaleString('en')} of {full.toLocaleString('en')} players
              {hand.going !== undefined && hand.going > 0 && `, ${Math.round(100 * hand.going)} % of all`}
              {!hand.preliminary &&
                `; ${hand.result.totals.events.toLocaleString('en')} events, ${hand.result.totals.purchases.toLocaleString('en')} purchases`}
            </>
          )
        }
      />
      <Problem error={set.error ?? (hand.problem === undefined ? undefined : new Error(hand.problem))} />
      <div className="flex items-center gap-3">
        {drawn.length > 0 && (
          <Variants
            drawn={[inHand, ...others.map(({ name }) => name)]}
            variants={variants}
            canKeep={!isDraft && !same && !best}
            onKeep={(name) => keep(name, levers, mix)}
            onTake={(variant) =>
              put({
                levers: [
                  ...levers.map(({ spec }) => ({
                    spec,
                    value: variant.levers.find((one) => one.spec === spec)?.value ?? null,
                  })),
                  ...variant.levers.filter(({ spec }) => !specs.includes(spec)),
                ],
                mix: variant.mix,
              })
            }
            onRename={(variant, name) =>
              put({ variants: variants.map((one) => (one === variant ? { ...one, name } : one)) })
            }
            onDrop={(variant) => put({ variants: variants.filter((one) => one !== variant) })}
          />
        )}
        <span className="ml-auto flex shrink-0 gap-3">
          {at && drawn.length > 0 && <ReportLink at={at} drawn={drawn} says={says} />}
          <Link className="underline" to="/simulate?view=made">
            Who plays
          </Link>
          <Link className="underline" to="/simulate?view=fit">
            From a log
          </Link>
          <Link className="underline" to="/simulate?view=runs">
            Saved runs
          </Link>
        </span>
      </div>
      {result && (
        <TargetStrip
          result={result}
          preliminary={hand.preliminary}
          onShow={(target) => setParams(shownFor(document, target))}
          onDecide={(count) => setParams({ players: String(Math.min(count, MOST_HERE)) })}
        />
      )}
      {result && <NotPlayed result={result} />}
      <div className="flex items-start gap-2 max-lg:flex-col">
        <aside
          aria-label="Levers"
          onKeyDown={(event) => {
            const isTyped = event.target instanceof HTMLInputElement;
            if (side === 'made' || event.key !== 'z' || !(event.ctrlKey || event.metaKey) || isTyped) return;
            // A lever that was moved goes back; edits of the draft are taken back anywhere else.
            event.nativeEvent.stopImmediatePropagation();
            event.preventDefault();
            window.history.back();
          }}
          className={`${side === 'made' ? 'max-h-[max(420px,calc(100vh-236px))] w-[430px] overflow-auto max-lg:max-h-none' : 'w-[330px]'} shrink-0 rounded-sheet border border-line bg-sheet p-2 max-lg:w-full`}
        >
          <div role="group" aria-label="Beside the charts" className="mb-2 flex flex-wrap gap-1">
            {SIDES.map(({ id, words }) => (
              <button
                key={id}
                type="button"
                aria-pressed={side === id}
                onClick={() => setSide(id)}
                className={`rounded-tag border border-line px-1.5 text-sm font-semibold ${side === id ? 'bg-ink text-paper' : ''}`}
              >
                {words}
              </button>
            ))}
          </div>
          {side === 'levers' && (
            <>
              <Levers
                stands={levers}
                read={read.data ?? []}
                offered={offered.data ?? []}
                onMove={(spec, value, back) =>
                  put({ levers: levers.map((one) => (one.spec === spec ? { spec, value } : one)) }, back)
                }
                onAdd={(spec) => put({ levers: [...levers, { spec, value: null }] })}
                onRemove={(spec) => put({ levers: levers.filter((one) => one.spec !== spec) })}
              />
              {set.data && (
                <>
                  <h2 className="mt-3 text-sm font-semibold text-soft">Who plays</h2>
                  <MixSliders scenario={set.data} mix={mix} onMix={(next, back) => put({ mix: next }, back)} />
                </>
              )}
            </>
          )}
          {at && result && (
            // A search goes on, and its answers stay, while another tab is looked at.
            <>
              <div hidden={side !== 'tune'}>
                <Tune
                  {...search(at, result)}
                  onBest={setBest}
                  onTake={(answer) => {
                    const stands = standAt(levers, answer.settings);
                    put({
                      levers: stands,
                      variants: [...variants.slice(0, 2), { name: nameFree(variants), levers: stands, mix }],
                    });
                  }}
                />
              </div>
              <div hidden={side !== 'sensitivity'}>
                <Sensitivity {...search(at, result)} />
              </div>
            </>
          )}
          {side === 'made' && <Made document={document} scenario={scenario} />}
          {at && side === 'draft' && (
            <PutIntoDraft
              key={key}
              at={at}
              asked={asked}
              words={noteFor(document.scenarios![scenario]!.name, levers, mix, read.data ?? [])}
              onDone={() => put({ levers: levers.map(({ spec }) => ({ spec, value: null })), mix: undefined })}
            />
          )}
        </aside>
        <div className="min-w-0 flex-1">
          {result ? (
            <ShownCharts
              document={document}
              drawn={drawn}
              more={more !== ''}
              onMore={() => setMore(more === '' ? '1' : '')}
            />
          ) : (
            hand.problem === undefined && <Waiting />
          )}
          {at && result && more !== '' && (
            <div className="mt-2">
              <Ways at={at} asked={own} currencies={result.currencies} />
            </div>
          )}
          {at && drawn.length > 1 && !hand.preliminary && more !== '' && (
            <div className="mt-2">
              <BenchDifferences
                at={at}
                drawn={[...drawn.slice(1, 2), drawn[0]!, ...drawn.slice(2)]}
                asked={[asked, full, others.map((one) => askedOf(one.levers, one.mix))]}
              />
            </div>
          )}
        </div>
      </div>
    </div>
  );
}

/** What stands here as one file that opens without the service. */
function ReportLink({
  at: { desk, document },
  drawn,
  says,
}: {
  at: DeskFor;
  drawn: readonly Drawn[];
  /** What makes a run what it is, by its name. */
  says: (name: string) => string;
}) {
  const { data: draft } = useDraft();
  const save = useMutation({
    mutationFn: async () => {
      const runs = drawn.map(({ name, result }) => ({ name, says: says(name), result }));
      const about = {
        economy: { name: document.name, zone: document.timeZone, from: `revision ${draft?.revision} of the draft` },
        madeMs: Date.now(),
        version: VERSION,
      };
      const page = await desk.now(document, 'report', { runs, against: Math.min(1, runs.length - 1), about });
      saveFile(`${runs[0]!.result.name}.html`, new Blob([page], { type: 'text/html' }));
    },
  });
  return (
    <>
      <Problem error={save.error} />
      <button type="button" className="underline" onClick={() => save.mutate()}>
        Report
      </button>
    </>
  );
}

/** The same list as long as the same runs are drawn under the same names. */
function useSameRuns(runs: readonly Drawn[]): readonly Drawn[] {
  const [kept, setKept] = useState(runs);
  const isSame =
    kept.length === runs.length &&
    kept.every(({ name, result, preliminary }, place) => {
      const other = runs[place]!;
      return name === other.name && result === other.result && preliminary === other.preliminary;
    });
  if (isSame) return kept;
  setKept(runs);
  return runs;
}

/** As many play in a browser; more are a run of the service. */
const MOST_HERE = 20_000;
/** No levers at all, where the address would otherwise mean the economy's own. */
const NONE = ';';

const SIDES = [
  { id: 'levers', words: 'Levers' },
  { id: 'tune', words: 'Tune' },
  { id: 'sensitivity', words: 'Sensitivity' },
  { id: 'draft', words: 'To the draft' },
  { id: 'made', words: 'Set up' },
] as const;

/** "Storm Frame 900, who plays": what stands elsewhere than in the draft. */
function movedWords(levers: readonly LeverStand[], mix: Mix, read: readonly LeverRead[]): string {
  const words = levers.flatMap(({ spec, value }) => {
    const lever = read.find((one) => one.ok && one.id === spec);
    return value === null || !lever?.ok ? [] : [`${lever.name} ${standText(lever.moves, value)}`];
  });
  const people = Object.entries(mix ?? {}).map(([persona, weight]) => `${persona} ${weight}`);
  return [...words, ...(people.length > 0 ? [`who plays: ${people.join(', ')}`] : [])].join(', ');
}

/** "from First month: Storm Frame 900". */
const noteFor = (scenario: string, levers: readonly LeverStand[], mix: Mix, read: readonly LeverRead[]): string =>
  `from ${scenario}: ${movedWords(levers, mix, read)}`.slice(0, 200);

/** What the charts must show for a target to be seen. */
function shownFor(document: EconomyDocument, id: string): Record<string, string> {
  const { item, persona, currency } = document.targets?.[id] ?? {};
  return {
    ...(item === undefined ? {} : { item }),
    ...(persona === undefined ? {} : { persona }),
    ...(currency === undefined ? {} : { currency }),
  };
}
