/** Cases: what must stay true. Each with what came of it, and beside it what is done and what must hold after it. */
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { unitsParse } from '../../core/amount/index.js';
import type { CaseDocument, EconomyDocument } from '../../core/document/index.js';
import { documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { movedText, stepState } from '../../core/texts/rehearsed.js';
import type { CaseView, Rehearsed } from '../../contract/index.js';
import { client, useCases, useDraft } from '../api.js';
import { SheetWindow } from '../catalog/SheetWindow.js';
import { AddByName } from '../parts/AddByName.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { EditBar } from '../parts/EditBar.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { CopyAndDelete } from '../parts/about.js';
import { CaseCounts, CaseMark, WhyBroken, brokenOnes } from '../parts/cases.js';
import { useEdits } from '../parts/edits.js';
import { useJustMade } from '../parts/justMade.js';
import { useParam } from '../parts/search.js';
import { addOperations, fieldOperation } from '../parts/step.js';
import { keepLast, madeUpParams } from '../parts/who.js';
import { Badge, Button, Empty, Legend, Problem, Waiting } from '../parts/ui.js';
import { CaseProposals } from './CaseProposals.js';
import { Expectations } from './Expectations.js';
import type { Expect } from './expectation.js';
import type { Step } from './RehearseDeeds.js';

type CaseStep = NonNullable<CaseDocument['steps']>[number];

export function Cases() {
  const document = useDraft().data?.document;
  const view = useCases();
  const edits = useEdits();
  const [open, setOpen] = useParam('open', '');
  const [show, setShow] = useParam('show', 'all');
  const { fresh, made } = useJustMade(open, setOpen);
  if (!document) return <Waiting />;
  const cases = document.cases ?? {};
  const id = open.startsWith('/cases/') ? open.slice('/cases/'.length) : '';
  const chosen = cases[id];
  const results = new Map(view.data?.cases.map((one) => [one.id, one]));
  const isShown = (one: string): boolean => show !== 'broken' || results.get(one)?.state !== 'holds';
  const add = (one: string, name: string): void => {
    // At ten today, by the clocks of the economy or nearly so: it is the first thing to be changed.
    const at = `${new Date().toISOString().slice(0, 10)}T10:00`;
    edits.apply({ operations: addOperations(document, 'cases', one, { name, at, steps: [] }) });
    made(`/cases/${one}`);
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        {view.data && <CaseCounts counts={view.data.counts} />}
        {(show === 'broken' || brokenOnes(view.data).length > 0) && (
          <Button aria-pressed={show === 'broken'} onClick={() => setShow(show === 'broken' ? 'all' : 'broken')}>
            {show === 'broken' ? 'Show all' : 'Only broken ones'}
          </Button>
        )}
        <AddByName what="case" taken={(one) => one in cases} onAdd={add} />
        <CaseProposals document={document} />
        <SheetWindow sheet="cases" />
        <EditBar />
      </div>
      <Problem error={view.error} />
      <div className={BESIDE}>
        <div className="min-w-0 flex-1">
          {Object.keys(cases).length === 0 ? (
            <Empty>
              Nothing must hold yet.{' '}
              <Link className="underline" to="/shops?mode=rehearse">
                Rehearse
              </Link>{' '}
              what matters, and keep it as a case: every later draft must pass it.
            </Empty>
          ) : (
            <ul aria-label="Cases" className="rounded-sheet border border-line bg-sheet shadow-sheet">
              {Object.entries(cases)
                .filter(([one]) => isShown(one))
                .map(([one, { name }]) => (
                  <CaseRow
                    key={one}
                    name={name}
                    result={results.get(one)}
                    isOpen={one === id}
                    onOpen={() => setOpen(`/cases/${one}`)}
                  />
                ))}
            </ul>
          )}
        </div>
        {chosen && (
          <Panel title={chosen.name} of={open} width="w-[520px]" onClose={() => setOpen('')}>
            <CaseForm
              key={id}
              {...{ id, chosen, document, fresh }}
              result={results.get(id)}
              onGone={() => setOpen('')}
              onMade={made}
            />
          </Panel>
        )}
      </div>
    </div>
  );
}

function CaseRow({
  name,
  result,
  isOpen,
  onOpen,
}: {
  name: string;
  result: CaseView | undefined;
  isOpen: boolean;
  onOpen: () => void;
}) {
  return (
    <li className={`border-b border-line/50 px-4 py-1 ${isOpen ? 'bg-tint-copper' : ''}`}>
      <button
        type="button"
        aria-pressed={isOpen}
        onClick={onOpen}
        className="flex w-full items-baseline gap-3 text-left"
      >
        <span className="min-w-0 flex-1 font-semibold">{name}</span>
        {result && <CaseMark state={result.state} />}
      </button>
      {result && result.state !== 'holds' && <WhyBroken one={result} />}
    </li>
  );
}

/** Amounts as people write them, in smallest units; undefined where one cannot be read. */
function unitsOf(
  amounts: Readonly<Record<string, number>> = {},
  labels: AssetLabels,
): Record<string, number> | undefined {
  const units: Record<string, number> = {};
  for (const [asset, amount] of Object.entries(amounts)) {
    const read = unitsParse(amount, labels(asset)?.decimals ?? 0);
    if (!read.ok) return undefined;
    units[asset] = read.units;
  }
  return units;
}

/** The steps as the service takes them; undefined where one cannot be read. */
function stepsOf(steps: readonly CaseStep[], labels: AssetLabels): Step[] | undefined {
  const read = steps.map(({ expect: _, give, take, ...step }): Step | undefined => {
    const [given, taken] = [give, take].map((one) => unitsOf(one as Record<string, number> | undefined, labels));
    if (!given || !taken) return undefined;
    return { ...step, ...(give ? { give: given } : {}), ...(take ? { take: taken } : {}) };
  });
  return read.every((step) => step !== undefined) ? read : undefined;
}

/** What comes of the steps on the draft now. */
function usePlayed({ at, seed, player = {}, steps = [] }: CaseDocument, labels: AssetLabels, saved: number) {
  const [read, holds] = [stepsOf(steps, labels), unitsOf(player.holds as Record<string, number> | undefined, labels)];
  return useQuery({
    queryKey: ['case', at, seed, player, steps, saved],
    queryFn: () =>
      client.call('POST /rehearsals', {
        body: {
          source: 'draft',
          untouched: true,
          at,
          profile: { attributes: player.attributes ?? {}, holds: holds! },
          ...(seed === undefined ? {} : { seed }),
          steps: read!,
        } as never,
      }),
    enabled: read !== undefined && holds !== undefined,
    retry: false,
    placeholderData: keepLast,
  });
}

/** Where the same can be rehearsed, and kept in this case again. */
function rehearseLink(id: string, { at, seed, player = {}, steps = [] }: CaseDocument, labels: AssetLabels): string {
  const address = new URLSearchParams({
    mode: 'rehearse',
    case: id,
    at,
    ...madeUpParams(player),
    ...(seed === undefined ? {} : { seed: String(seed) }),
    steps: JSON.stringify(stepsOf(steps, labels) ?? []),
  });
  return `/shops?${address}`;
}

/** What is written above the steps, or of them. */
const FIELDS = ['name', 'description', 'at', 'seed', 'player', 'expect', 'steps'];

function CaseForm({
  id,
  chosen,
  document,
  fresh,
  result,
  onGone,
  onMade,
}: {
  id: string;
  chosen: CaseDocument;
  document: EconomyDocument;
  fresh: boolean;
  result: CaseView | undefined;
  onGone: () => void;
  onMade: (pointer: string) => void;
}) {
  const edits = useEdits();
  const labels = documentLabels(document);
  const played = usePlayed(chosen, labels, edits.saved);
  const pointer = `/cases/${id}`;
  const put = (at: string, before: unknown, expect: Expect): void => {
    const isEmpty = Object.keys(expect).length === 0;
    const change = fieldOperation(at, 'expect', before, isEmpty ? undefined : expect);
    if (change) edits.apply({ operations: [change] });
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-start gap-2">
        <CopyAndDelete pointer={pointer} name={chosen.name} onGone={onGone} onMade={onMade} />
        <Link
          className="rounded-tag border border-line bg-sheet px-3 py-1 font-semibold hover:bg-sunk"
          to={rehearseLink(id, chosen, labels)}
        >
          Rehearse it
        </Link>
        {result && <CaseMark state={result.state} />}
      </div>
      {result && result.state !== 'holds' && <WhyBroken one={result} />}
      <SchemaForm pointer={pointer} value={chosen} without={FIELDS.filter((field) => field !== 'name')} fresh={fresh} />
      <fieldset className="rounded-sheet border border-line px-3 pb-2">
        <Legend label="Steps" />
        {(chosen.steps ?? []).length === 0 && (
          <Empty>
            Nothing is done yet.{' '}
            <Link className="underline" to={rehearseLink(id, chosen, labels)}>
              Rehearse it
            </Link>
            : each press there is a step.
          </Empty>
        )}
        <ol className="flex flex-col gap-2">
          {(chosen.steps ?? []).map((step, place) => (
            <StepRow
              key={place}
              place={place}
              step={step}
              done={played.data?.steps[place]}
              labels={labels}
              document={document}
              onPut={(expect) => put(`${pointer}/steps/${place}`, step.expect, expect)}
              onRemove={() => edits.apply({ operations: [{ op: 'remove', path: `${pointer}/steps/${place}` }] })}
            />
          ))}
        </ol>
      </fieldset>
      <fieldset className="rounded-sheet border border-line px-3 pb-2">
        <Legend label="Must hold at first" />
        <Expectations
          label="At first"
          expect={(chosen.expect ?? {}) as Expect}
          document={document}
          isAfterStep={false}
          onPut={(expect) => put(pointer, chosen.expect, expect)}
        />
      </fieldset>
      <SchemaForm pointer={pointer} value={chosen} without={['name', 'expect', 'steps']} />
    </div>
  );
}

function StepRow({
  place,
  step,
  done,
  labels,
  document,
  onPut,
  onRemove,
}: {
  place: number;
  step: CaseStep;
  done: Rehearsed['steps'][number] | undefined;
  labels: AssetLabels;
  document: EconomyDocument;
  onPut: (expect: Expect) => void;
  onRemove: () => void;
}) {
  const number = place + 1;
  const { expect, ...written } = step;
  const words =
    done?.words ??
    Object.entries(written)
      .map(([verb, of]) => `${verb} ${typeof of === 'object' ? JSON.stringify(of) : String(of)}`)
      .join(' ');
  return (
    <li className="border-b border-line/50 pb-2">
      <div className="flex items-baseline gap-2 text-sm">
        <span className="w-5 text-right text-soft">{number}</span>
        <span className="min-w-0 flex-1">
          <span className="font-semibold">{words}</span>
          {done && <span className="text-soft"> {movedText(labels, done.moved)}</span>}
        </span>
        {done && <Badge tone={done.done ? 'good' : 'bad'}>{stepState(done)}</Badge>}
        <Button className="px-1.5 py-0 text-sm" aria-label={`Take out step ${number}`} onClick={onRemove}>
          ×
        </Button>
      </div>
      <Expectations
        label={`Step ${number}`}
        expect={(expect ?? {}) as Expect}
        document={document}
        isAfterStep
        onPut={onPut}
      />
    </li>
  );
}
