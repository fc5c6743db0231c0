/** A formula as it is typed: names and functions are completed, what is wrong is marked where it stands, and its value is told. */
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { Suspense, lazy, useEffect, useRef, useState } from 'react';
import type { ReactNode } from 'react';
import type { FormulaTried } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { client, usePlayers } from '../api.js';
import { useParam } from '../parts/search.js';
import { Why } from '../parts/ui.js';
import { Completing, useCompleting } from './completing.js';
import { formulaCompletion } from './formulaCompletion.js';
import { ifShown } from './leaving.js';

interface Asked {
  id?: string;
  /** Said to who does not see, where no label stands beside it. */
  label?: string;
  /** It was just added: what stands in it gives way to what is typed. */
  selected?: boolean;
  className?: string;
  document: EconomyDocument;
  /** As it is written in the economy; a number where that may stand too. */
  text: string;
  gives: 'truth' | 'number';
  /** Whose fields can be named too. */
  event?: string | undefined;
  describedBy?: string | undefined;
  placeholder?: string;
  /** Gives a problem, where what is typed cannot be kept. */
  onKeep: (text: string) => string | undefined;
  /** What is said of the number that it comes to. */
  tells?: ((value: number) => ReactNode) | undefined;
  /** What is typed and not yet kept; undefined once it is kept or dropped. */
  onTyping?: ((text: string | undefined) => void) | undefined;
}

export function FormulaInput({
  id,
  label,
  selected = false,
  className = '',
  document,
  text,
  gives,
  event,
  describedBy,
  placeholder,
  tells,
  onKeep,
  onTyping,
}: Asked) {
  const [typed, putTyped] = useState<string | null>(null);
  const setTyped = (next: string | null): void => {
    putTyped(next);
    onTyping?.(next ?? undefined);
  };
  const [problem, setProblem] = useState<string | undefined>();
  const [focused, setFocused] = useState(false);
  const now = typed ?? text;
  const completing = useCompleting({
    text: now,
    onType: setTyped,
    find: (words, caret) => formulaCompletion(document, event, words, caret),
  });
  const { input, close } = completing;
  // A condition is always a formula: its = need not be typed.
  const formula = now.startsWith('=') ? now : gives === 'truth' && now.trim() !== '' ? `=${now}` : undefined;
  useEffect(() => {
    if (selected) input.current?.select();
  }, [selected, input]);
  const keep = (): void => {
    close();
    if (typed === null) return;
    const wrong = typed.trim() === text ? undefined : onKeep(typed.trim());
    setProblem(wrong);
    if (wrong === undefined) setTyped(null);
  };
  return (
    <div
      className="flex flex-col gap-0.5"
      onFocus={() => setFocused(true)}
      onBlur={({ currentTarget, relatedTarget }) => setFocused(currentTarget.contains(relatedTarget))}
    >
      <Completing of={completing}>
        <input
          {...completing.props}
          id={id}
          aria-label={label}
          aria-describedby={describedBy}
          aria-invalid={problem !== undefined}
          placeholder={placeholder}
          onBlur={ifShown(keep)}
          onKeyDown={(pressed) => {
            if (completing.onKeyDown(pressed)) return;
            if (pressed.key === 'Enter') keep();
            if (pressed.key === 'Escape' && (typed !== null || problem !== undefined)) {
              pressed.stopPropagation();
              setTyped(null);
              setProblem(undefined);
            }
          }}
          className={`w-full rounded-tag border border-line bg-paper px-2 text-ink placeholder:text-soft ${className || 'py-1'}`}
        />
      </Completing>
      <Why problem={problem} />
      {formula !== undefined && !completing.open && (focused || typed !== null) && (
        <Told formula={formula} gives={gives} event={event} tells={tells} />
      )}
    </div>
  );
}

const PAUSE_MS = 150;
const NEW_PLAYER = '';

/** What it comes to for somebody, or where it is wrong; asked for when the typing pauses. */
function Told({
  formula,
  gives,
  event,
  tells,
}: {
  formula: string;
  gives: 'truth' | 'number';
  event: string | undefined;
  tells: Asked['tells'];
}) {
  const players = usePlayers().data?.items ?? [];
  const [whom, setWhom] = useParam('for', NEW_PLAYER);
  const [asked, setAsked] = useState(formula);
  useEffect(() => {
    const timer = setTimeout(() => setAsked(formula), PAUSE_MS);
    return () => clearTimeout(timer);
  }, [formula]);
  const tried = useQuery({
    queryKey: ['values', 'formula', asked, gives, event, whom],
    queryFn: () =>
      client.call('POST /draft/formula', {
        body: { formula: asked, gives, ...(event ? { event } : {}), ...(whom ? { player: whom } : {}) },
      }),
    placeholderData: keepPreviousData,
    retry: false,
  }).data;
  // It may be below the edge of its panel.
  const told = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    told.current?.scrollIntoView({ block: 'nearest' });
  }, [tried]);
  if (!tried) return null;
  const value = tried.kind === 'value' && typeof tried.value === 'number' ? tried.value : undefined;
  return (
    <span ref={told} className="flex flex-wrap items-center gap-x-2 text-sm" role="status">
      {tried.kind === 'wrong' ? (
        <Wrong formula={asked} wrong={tried} />
      ) : tried.kind === 'later' ? (
        <span className="text-soft">told when the event is reported</span>
      ) : (
        <>
          <span className={tried.kind === 'none' ? 'text-brick' : 'font-semibold'}>
            {tried.kind === 'none' ? tried.problem : valueWords(tried.value)}
          </span>
          <label className="text-soft">
            for{' '}
            <select
              value={whom}
              onChange={({ target }) => setWhom(target.value)}
              className="rounded-tag border border-line bg-paper"
            >
              <option value={NEW_PLAYER}>a new player</option>
              {players.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        </>
      )}
      {value !== undefined && tells?.(value)}
      {tried.kind === 'value' && tried.curves.length > 0 && <Curves curves={tried.curves} inputs={tried.inputs} />}
    </span>
  );
}

const FormulaCurve = lazy(() => import('../charts/FormulaCurve.js'));

/** Over one thing that it reads at a time. */
function Curves({ curves, inputs }: Pick<Extract<FormulaTried, { kind: 'value' }>, 'curves' | 'inputs'>) {
  const [picked, setPicked] = useState('');
  const curve = curves.find(({ name }) => name === picked) ?? curves[0]!;
  const at = inputs.find(({ name }) => name === curve.name)?.value;
  return (
    <span className="block w-full">
      {curves.length > 1 && (
        <label className="text-soft">
          over{' '}
          <select
            value={curve.name}
            onChange={({ target }) => setPicked(target.value)}
            className="rounded-tag border border-line bg-paper"
          >
            {curves.map(({ name }) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
      )}
      <Suspense>
        <FormulaCurve curve={curve} at={Number(at)} />
      </Suspense>
    </span>
  );
}

const valueWords = (value: number | boolean): string =>
  typeof value === 'boolean' ? (value ? 'holds' : 'does not hold') : Number(value.toPrecision(8)).toLocaleString('en');

function Wrong({ formula, wrong }: { formula: string; wrong: Extract<FormulaTried, { kind: 'wrong' }> }) {
  const { at, problem, fix } = wrong;
  const [part = ''] = /^(?:\w+|\S|$)/.exec(formula.slice(at)) ?? [];
  return (
    <span className="text-brick">
      <code className="mr-1">
        {formula.slice(0, at)}
        <mark className="bg-tint-brick text-brick underline decoration-wavy">{part === '' ? ' ' : part}</mark>
        {formula.slice(at + part.length)}
      </code>
      {problem}. {fix}
    </span>
  );
}
