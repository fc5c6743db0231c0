/** The ladder: what is on sale in the order of its playing time. A price is moved by its coin on the line, or typed. */
import { useMemo, useState } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { unitsFormat, unitsParse } from '../../core/amount/index.js';
import type { Ladder as LadderOf, Rung, Step } from '../../core/playtime/index.js';
import { timeOrder } from '../../core/playtime/playingTime.js';
import { rungSteps } from '../../core/playtime/rungs.js';
import { dayText, durationText } from '../../core/playtime/words.js';
import { basketText } from '../../core/texts/amounts.js';
import { useDraft } from '../api.js';
import { useTyped } from '../fields/useTyped.js';
import { ifShown } from '../fields/leaving.js';
import { EditBar } from '../parts/EditBar.js';
import { Icon } from '../parts/Icon.js';
import { Picks } from '../parts/Picks.js';
import { useEdits } from '../parts/edits.js';
import { TimeNote, usePlaytime } from '../parts/playtime.js';
import type { Playtime } from '../parts/playtime.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Button, Choice, Empty, Input, Problem, Waiting, Why } from '../parts/ui.js';
import { LadderLine } from './LadderLine.js';
import { factorText, iconOf } from './ladderShown.js';
import type { Moving } from './ladderShown.js';
import { LadderRule } from './LadderRule.js';

const ALL = '(all)';
/** So many rows are drawn; of more a shop or group is picked. */
const MOST_ROWS = 200;

export function Ladder() {
  const document = useDraft().data?.document;
  const { playtime, error } = usePlaytime();
  const { apply } = useEdits();
  const [shop] = useParam('of', ALL);
  const [group] = useParam('group', ALL);
  const [shelf] = useParam('shelf', ALL);
  const setParams = useSetParams();
  const [chosen, setChosen] = useState('');
  const [moving, setMoving] = useState<Moving>();
  /** What was kept stands where it was put until the prices are worked out anew. */
  const [kept, setKept] = useState<{ moving: Moving; of: LadderOf | undefined }>();
  const put = moving ?? (kept && kept.of === playtime?.ladder ? kept.moving : undefined);
  const [ruling, setRuling] = useState(false);
  const fits = ({ shop: its, shelf: on, group: of }: Rung): boolean =>
    (shop === ALL || its === shop) && (shelf === ALL || on === shelf) && (group === ALL || of === group);
  const rungs = (playtime?.ladder.rungs ?? []).filter(fits);
  const steps = useMemo(
    () => (playtime ? rungSteps(playtime.earnings, moved(playtime, put).filter(fits)) : []),
    // `fits` is said by these.
    // oxlint-disable-next-line react/exhaustive-deps
    [playtime, put, shop, shelf, group],
  );
  if (!document) return <Waiting />;
  if (Object.keys(document.personas ?? {}).length === 0)
    return (
      <Empty>
        Prices are put in the order of their playing time once it is said who plays, and what.{' '}
        <Link className="underline" to="/simulate">
          Say who plays
        </Link>
      </Empty>
    );
  const keep = (rung: Rung, units: number): void => {
    const [asset] = Object.keys(rung.price);
    const decimals = document.currencies?.[asset!]?.decimals ?? 0;
    setMoving(undefined);
    setKept({ moving: { offer: rung.offer, units }, of: playtime?.ladder });
    apply({ operations: [{ op: 'replace', path: rung.amountAt!, value: Number(unitsFormat(units, decimals)) }] });
  };
  const apart = playtime?.ladder.apart ?? [];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <Picks
          label="Of which shop"
          all={[
            { id: ALL, name: 'All shops' },
            ...Object.entries(document.shops ?? {}).map(([id, { name, icon }]) => ({ id, name, icon })),
          ]}
          picked={shop}
          onPick={(id) => setParams({ of: id === ALL ? '' : id, shelf: '', group: '' })}
        />
        {shop === ALL ? (
          <Choice
            label="Group"
            value={group}
            options={[
              { value: ALL, label: 'all groups' },
              ...Object.entries(document.groups ?? {}).map(([value, { name }]) => ({ value, label: name })),
            ]}
            onChange={(next) => setParams({ group: next === ALL ? '' : next })}
          />
        ) : (
          <Choice
            label="Shelf"
            value={shelf}
            options={[
              { value: ALL, label: 'all shelves' },
              ...Object.entries(document.shops?.[shop]?.shelves ?? {}).map(([id, { name }]) => ({
                value: `${shop}/${id}`,
                label: name,
              })),
            ]}
            onChange={(next) => setParams({ shelf: next === ALL ? '' : next })}
          />
        )}
        <Button disabled={steps.length < 2} onClick={() => setRuling(true)}>
          Prices by a rule ...
        </Button>
        <EditBar what={`${steps.length} ${steps.length === 1 ? 'price' : 'prices'}`} />
      </div>
      <Problem error={error} />
      {!playtime ? (
        !error && <Waiting />
      ) : steps.length === 0 ? (
        <Empty>Nothing here is paid for by play.</Empty>
      ) : (
        <>
          <LadderLine
            steps={steps}
            ends={endsOf(rungs)}
            playtime={playtime}
            document={document}
            chosen={chosen}
            onChoose={setChosen}
            moving={moving}
            onMove={setMoving}
            onKeep={keep}
          />
          <Steps
            steps={steps.slice(0, MOST_ROWS)}
            playtime={playtime}
            document={document}
            chosen={chosen}
            onChoose={setChosen}
            onKeep={keep}
          />
          {steps.length > MOST_ROWS && (
            <p className="text-sm text-soft">and {steps.length - MOST_ROWS} more: pick a shop or a group.</p>
          )}
          <p className="text-sm text-soft">{said(playtime)}</p>
          {apart.length > 0 && (
            <details className="text-sm text-soft">
              <summary>{apart.length} offers are not on it</summary>
              <ul>
                {apart.map(({ offer, name, why }) => (
                  <li key={offer}>
                    {name}: {why}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </>
      )}
      {ruling && playtime && <LadderRule steps={steps} playtime={playtime} onClose={() => setRuling(false)} />}
    </div>
  );
}

/** The rungs as if what is moved were kept. */
function moved({ ladder: { rungs }, of }: Playtime, moving: Moving | undefined): Rung[] {
  if (!moving) return rungs;
  return rungs.map((rung) => {
    if (rung.offer !== moving.offer) return rung;
    const price = { [Object.keys(rung.price)[0]!]: moving.units };
    return { ...rung, price, time: of(price) };
  });
}

/** From where to where the line goes: it stands still while a price is moved. */
function endsOf(rungs: readonly Rung[]): readonly [number, number] {
  const minutes = rungs.map(({ time }) => Math.max(1, timeOrder(time)));
  return [Math.min(...minutes) / 1.15, Math.max(...minutes) * 1.15];
}

const said = ({ earnings: { name, players } }: Playtime): string =>
  `For a ${name} who begins with nothing and buys nothing else. ${players === 0 ? 'Worked out: what is expected' : `The days by which half of ${players} made-up players have earned it`}. Limits, requirements and stock are not in it. A rung above is owned after all below it are bought.`;

function Steps({
  steps,
  playtime,
  document,
  chosen,
  onChoose,
  onKeep,
}: {
  steps: readonly Step[];
  playtime: Playtime;
  document: EconomyDocument;
  chosen: string;
  onChoose: (offer: string) => void;
  onKeep: (rung: Rung, units: number) => void;
}) {
  return (
    <div
      className="overflow-auto rounded-sheet border border-line bg-sheet"
      style={{ maxHeight: 'calc(100vh - 430px)', minHeight: Math.min(220, 36 * (steps.length + 1)) }}
    >
      <table className="w-full border-collapse" aria-label="Rungs">
        <thead className="sticky top-0 bg-sunk">
          <tr className="text-left text-sm text-soft">
            {['offer', 'shop', 'price', 'minutes of play', 'earned', 'times the one below', 'all so far owned'].map(
              (head, place) => (
                <th key={head} scope="col" className={`px-3 py-1 font-semibold ${place > 1 ? 'text-right' : ''}`}>
                  {head}
                </th>
              ),
            )}
          </tr>
        </thead>
        <tbody>
          {steps.map((step) => (
            <tr
              key={step.offer}
              ref={(row) => {
                if (step.offer === chosen) row?.scrollIntoView({ block: 'nearest' });
              }}
              className={`border-t border-line/60 ${step.offer === chosen ? 'bg-tint-brass' : ''}`}
              onClick={() => onChoose(step.offer)}
            >
              <td className="px-3 py-0.5">
                <Icon icon={iconOf(document, step)} />{' '}
                <Link
                  className="underline decoration-line underline-offset-2"
                  to={`/shops?mode=arrange&shop=${step.shop}&open=${encodeURIComponent(step.pointer)}`}
                >
                  {step.name}
                </Link>
              </td>
              <td className="px-3 py-0.5 text-soft">{document.shops?.[step.shop]?.name}</td>
              <td className="px-3 py-0.5 text-right">
                {step.amountAt === undefined ? (
                  <span title={step.byFormula ? 'By a formula, for a new player of the persona' : undefined}>
                    {basketText(playtime.labels, step.price)}
                    {step.byFormula && <span className="text-soft"> (formula)</span>}
                  </span>
                ) : (
                  <PriceInput step={step} playtime={playtime} onKeep={(units) => onKeep(step, units)} />
                )}
              </td>
              <td className="px-3 py-0.5 text-right" title={playtime.words(step.time)}>
                {minutesOf(step)}
              </td>
              <td className="px-3 py-0.5 text-right">
                {step.time.kind === 'earned' ? dayText(step.time) : <TimeNote time={step.time} playtime={playtime} />}
              </td>
              <td className="px-3 py-0.5 text-right">{factorText(step)}</td>
              <td className="px-3 py-0.5 text-right">
                {step.ownedDay === undefined ? 'later' : `day ${step.ownedDay}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const minutesOf = ({ time }: Step): string => (time.kind === 'earned' ? durationText(time.minutes.mean) : '');

/** The amount alone is typed; what it is of stands behind it. */
function PriceInput({ step, playtime, onKeep }: { step: Step; playtime: Playtime; onKeep: (units: number) => void }) {
  const [asset, units] = Object.entries(step.price)[0]!;
  const label = playtime.labels(asset);
  const decimals = label?.decimals ?? 0;
  const field = useTyped(unitsFormat(units, decimals), (typed) => {
    const read = unitsParse(typed.trim(), decimals);
    if (!read.ok) return `${read.message}. ${read.fix}`;
    if (read.units === 0) return 'A price is more than 0. To give it away, write free in Arrange.';
    onKeep(read.units);
    return undefined;
  });
  return (
    <span className="inline-flex flex-col items-end">
      <span className="inline-flex items-center gap-1.5">
        <Input
          aria-label={`Price of ${step.name}`}
          className="w-20 py-0 text-right"
          inputMode="decimal"
          value={field.shown}
          onChange={({ target }) => field.type(target.value)}
          onBlur={ifShown(field.keep)}
          onKeyDown={field.onKeyDown}
        />
        <span className="w-16 text-left text-sm text-soft">{label?.name ?? asset}</span>
      </span>
      <Why problem={field.problem} />
    </span>
  );
}
