/** Beside the levers: the machine looks for prices, and tells which lever moves which target. */
import { useMutation } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import type { Effect, LeverMoved, SensitivityResult, TuneAnswer, TuneResult } from '../../core/balance/index.js';
import { MARK_SIGNS, METRIC_WORDS, distanceText, markText, targetFigure } from '../../core/simulation/report.js';
import type { SimulationResult, TargetRow } from '../../core/simulation/index.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Button, Problem } from '../parts/ui.js';
import { shown } from '../parts/shown.js';
import { standText } from './bench.js';
import type { Progress } from './desk/desk.js';
import type { PlayAsked, SearchAsked } from './desk/orders.js';
import type { DeskFor } from './useDesk.js';

const SMALL_PLAYERS = 240;
const FULL_PLAYERS = 1000;

interface Asked {
  at: DeskFor;
  play: PlayAsked;
  levers: readonly string[];
  targets: readonly Pick<TargetRow, 'id' | 'name'>[];
  players: number;
  currencies: SimulationResult['currencies'];
}

const searchOf = ({ play, levers, players }: Asked, targets: readonly string[]): SearchAsked => {
  const full = Math.max(FULL_PLAYERS, players);
  return {
    // A search begins where the draft is, with the mix that is in hand.
    play: { ...play, levers: [] },
    levers,
    targets,
    players: { small: Math.min(SMALL_PLAYERS, full), full },
  };
};

const settingsText = (settings: readonly LeverMoved[]): string =>
  settings
    .filter(({ before, after }) => before !== after)
    .map(({ name, moves, after }) => `${name} ${standText(moves, after)}`)
    .join(', ') || 'as it is';

const rangeText = ({ low, high }: NonNullable<TuneAnswer['range']>, { moves }: LeverMoved): string =>
  low === high
    ? 'One step up or down is not as well.'
    : `As well from ${standText(moves, low)} to ${standText(moves, high)}.`;

const metText = (targets: readonly TargetRow[]): string => {
  const met = targets.filter(({ mark }) => mark === 'met').length;
  return met === targets.length ? `all ${met} met` : `${met} of ${targets.length} met`;
};

/** Levers and targets are there already: press, watch the best so far, take an answer. */
export function Tune({
  onBest,
  onTake,
  ...asked
}: Asked & {
  /** The best so far is drawn while it is searched; undefined once that is over. */
  onBest: (settings: readonly LeverMoved[] | undefined) => void;
  onTake: (answer: TuneAnswer, number: number) => void;
}) {
  const [leftText] = useParam('left', '');
  const left = leftText === '' ? [] : leftText.split(';');
  const [tuned] = useParam('tuned', '');
  const [side] = useParam('side', '');
  const setParams = useSetParams();
  const setLeft = (targets: readonly string[]): void => setParams({ left: targets.join(';'), tuned: '' });
  const [progress, setProgress] = useState<Progress>();
  const wanted = asked.targets.map(({ id }) => id).filter((id) => !left.includes(id));
  const search = useMutation({
    mutationFn: () => {
      let best = '';
      return asked.at.desk.later(asked.at.document, 'tune', searchOf(asked, wanted), (now) => {
        setProgress(now);
        const text = JSON.stringify(now.best?.settings);
        if (now.best && text !== best) onBest(now.best.settings);
        best = text;
      });
    },
    onSuccess: () => setParams({ tuned: '1' }),
    onSettled: () => {
      setProgress(undefined);
      onBest(undefined);
    },
  });
  const mayBegin = asked.levers.length > 0 && wanted.length > 0;
  // The same draft and levers come to the same answer, so a link to a search is what it was asked.
  const isLinked = useRef(tuned !== '' && side === 'tune');
  const { mutate } = search;
  useEffect(() => {
    if (!isLinked.current || !mayBegin) return;
    isLinked.current = false;
    mutate();
  }, [mayBegin, mutate]);
  return (
    <section aria-label="Tune" className="flex flex-col gap-2">
      {asked.targets.length > 0 && (
        <fieldset className="flex min-w-0 flex-col">
          <legend className="text-sm font-semibold text-soft">Targets that count</legend>
          {asked.targets.map(({ id, name }) => (
            <label key={id} className="flex min-w-0 items-baseline gap-2 text-sm">
              <input
                type="checkbox"
                checked={!left.includes(id)}
                disabled={search.isPending}
                onChange={(event) => setLeft(event.target.checked ? left.filter((one) => one !== id) : [...left, id])}
              />
              <span className="truncate" title={name}>
                {name}
              </span>
            </label>
          ))}
        </fieldset>
      )}
      <Button
        look={search.isPending ? 'plain' : 'primary'}
        className="self-start"
        disabled={!mayBegin}
        onClick={() => (search.isPending ? asked.at.desk.stop() : search.mutate())}
      >
        {search.isPending ? 'Stop with the best so far' : 'Tune'}
      </Button>
      {!mayBegin && (
        <p className="text-sm text-soft">
          {asked.levers.length === 0 ? 'Add the levers that may move first.' : 'No target counts.'}
        </p>
      )}
      {search.isPending && progress && (
        <div role="status" className="text-sm">
          <progress
            className="run h-2 w-full"
            aria-label="Progress of the search"
            max={progress.of}
            value={progress.done}
          />
          {progress.done} runs; best so far: {progress.best && settingsText(progress.best.settings)}
          {progress.best && ` (${metText(progress.best.targets)})`}
        </div>
      )}
      <Problem error={search.error} />
      {search.data && !search.isPending && (
        <Answers result={search.data} currencies={asked.currencies} onTake={onTake} />
      )}
    </section>
  );
}

const OUTCOMES: Readonly<Record<TuneResult['outcome'], string>> = {
  met: 'Every target can be met.',
  likely: 'No target is missed, but not all are decided.',
  none: 'Nothing within the bounds meets all; this comes nearest.',
};

function Answers({
  result,
  currencies,
  onTake,
}: {
  result: TuneResult;
  currencies: SimulationResult['currencies'];
  onTake: (answer: TuneAnswer, number: number) => void;
}) {
  const { outcome, stopped, answers, inTheWay, unmoved, runs } = result;
  return (
    <div className="flex flex-col gap-2 text-sm">
      <p role="status">
        {stopped && 'Stopped before its time: of small runs. '}
        {OUTCOMES[outcome]} ({runs} runs)
        {inTheWay.length > 0 && ` The rest can be met without ${inTheWay.join('; or without ')}.`}
        {unmoved.length > 0 && ` No lever here moves ${unmoved.join('; ')}.`}
      </p>
      {answers.map((answer, number) => (
        <div key={number} className="rounded-tag border border-line p-2">
          <p className="font-semibold">{settingsText(answer.settings)}</p>
          {answer.range && <p>{rangeText(answer.range, answer.settings[0]!)}</p>}
          <ul>
            {answer.targets.map((row) => (
              <li key={row.id}>
                {MARK_SIGNS[row.mark]} {row.name}: {markText(row)}, {targetFigure(row, currencies)}
              </li>
            ))}
          </ul>
          {answer.elsewhere.length > 0 && (
            <p className="text-soft">
              Elsewhere:{' '}
              {answer.elsewhere
                .slice(0, 3)
                .map(
                  (one) =>
                    `${one.persona}, ${one.subject}: ${METRIC_WORDS[one.metric]} ${one.difference > 0 ? '+' : ''}${distanceText(one, one.difference)}`,
                )
                .join('; ')}
            </p>
          )}
          <Button className="mt-1 py-0" onClick={() => onTake(answer, number)}>
            Take as a variant
          </Button>
        </div>
      ))}
    </div>
  );
}

const ARROWS = { '-1': '▼', 0: '·', 1: '▲' } as const;
const TONES = { '-1': 'text-brick', 0: 'text-soft', 1: 'text-verdigris' } as const;
const HELPS = { '-1': 'away from the target', 0: 'nothing that can be told', 1: 'towards the target' } as const;

/** A grid of small arrows: what one step up of each lever does to each target. */
export function Sensitivity(asked: Asked) {
  const [progress, setProgress] = useState<Progress>();
  const look = useMutation({
    mutationFn: () =>
      asked.at.desk.later(
        asked.at.document,
        'sensitivity',
        searchOf(
          asked,
          asked.targets.map(({ id }) => id),
        ),
        setProgress,
      ),
    onSettled: () => setProgress(undefined),
  });
  return (
    <section aria-label="Sensitivity" className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <Button
          disabled={asked.levers.length === 0 || asked.targets.length === 0}
          busy={look.isPending}
          onClick={() => look.mutate()}
        >
          What moves what?
        </Button>
        {look.isPending && (
          <span role="status" className="text-sm text-soft">
            {progress ? `run ${progress.done} of ${progress.of}` : 'waiting its turn'}
          </span>
        )}
      </div>
      <Problem error={look.error} />
      {look.data && <Grid result={look.data} />}
    </section>
  );
}

function effectText({ perStep, low, high, distinguishable, helps }: Effect): string {
  if (perStep === null) return `not seen within the run; ${HELPS[helps]}`;
  if (!distinguishable || low === null || high === null) return 'nothing that can be told';
  return `${perStep > 0 ? '+' : ''}${shown(Number(perStep.toPrecision(2)))} a step (${shown(Number(low.toPrecision(2)))} to ${shown(Number(high.toPrecision(2)))}), ${HELPS[helps]}`;
}

/** By target, since the names of targets are long and the panel is not. */
function Grid({ result: { levers, targets, effects } }: { result: SensitivityResult }) {
  return (
    <div className="flex flex-col gap-2 text-sm">
      {targets.map((target) => (
        <section key={target.id}>
          <h3 className="font-semibold">{target.name}</h3>
          <ul>
            {levers.map(({ id, name, moves, step }) => {
              const effect = effects.find((one) => one.lever === id && one.target === target.id)!;
              return (
                <li key={id} className="flex items-baseline gap-2" title={effectText(effect)}>
                  <span aria-hidden className={`w-4 text-center ${TONES[effect.helps]}`}>
                    {ARROWS[effect.helps]}
                  </span>
                  <span className="min-w-0 flex-1 truncate">
                    {name} <span className="text-soft">+{standText(moves, step).replace('× ', '')}</span>
                  </span>
                  <span className="tabular-nums" aria-hidden>
                    {changeText(effect, target.unit)}
                  </span>
                  <span className="sr-only">{effectText(effect)}</span>
                </li>
              );
            })}
          </ul>
        </section>
      ))}
      <p className="text-soft">
        What one step up does: ▲ towards the target, ▼ away from it, · nothing that can be told.
      </p>
    </div>
  );
}

const UNITS: Readonly<Record<SensitivityResult['targets'][number]['unit'], string>> = {
  days: ' days',
  percent: ' points',
  money: '',
  times: ' times',
};

function changeText({ perStep, distinguishable }: Effect, unit: SensitivityResult['targets'][number]['unit']): string {
  if (perStep === null) return 'not seen';
  if (!distinguishable) return '–';
  return `${perStep > 0 ? '+' : ''}${shown(Number(perStep.toPrecision(2)))}${UNITS[unit]}`;
}
