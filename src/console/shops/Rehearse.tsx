/** Rehearse: be a player. Every press is a step; what came of each stands in a list, and nothing of it is kept. */
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { unitsFormat } from '../../core/amount/index.js';
import { amountText, documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import type { FrontOffer } from '../../core/storefront/index.js';
import type { FrontView, Rehearsed } from '../../contract/index.js';
import { client, useSource } from '../api.js';
import { Picks } from '../parts/Picks.js';
import { useEdits } from '../parts/edits.js';
import { rehearsedKeep } from '../parts/rehearsed.js';
import { useParam } from '../parts/search.js';
import { keepLast, useQuestion } from '../parts/who.js';
import { Button, Empty, Field, Input, Problem, Sheet, Waiting, instantWords } from '../parts/ui.js';
import { FrontSheet } from './Front.js';
import { Deeds } from './RehearseDeeds.js';
import type { Step } from './RehearseDeeds.js';
import { Keep } from './RehearseKeep.js';
import { Steps } from './RehearseSteps.js';
import { useLanguage } from './language.js';

/** What the address says; what is no list of steps is none. */
function stepsRead(text: string): Step[] {
  try {
    const read: unknown = JSON.parse(text || '[]');
    return Array.isArray(read) ? (read as Step[]) : [];
  } catch {
    return [];
  }
}

/** What is rehearsed by the address; `only`: on the draft, whatever the address says. */
function useRehearsal(only?: 'draft') {
  const [written] = useParam('source', 'draft');
  const source = only ?? written;
  const { data: document } = useSource(source);
  const { question: asks, form } = useQuestion(document, 'draft');
  const question = { ...asks, source };
  const { language, choice } = useLanguage(document);
  const { saved } = useEdits();
  const [shop, setShop] = useParam('shop', Object.keys(document?.shops ?? {})[0] ?? '');
  const [seed, setSeed] = useParam('seed', '');
  const [text, setText] = useParam('steps', '');
  const steps = stepsRead(text);
  /** Steps that were taken back, the last of them first to come again. */
  const [back, setBack] = useState<readonly Step[]>([]);
  const put = (after: readonly Step[]): void => setText(after.length === 0 ? '' : JSON.stringify(after));
  const { problem, at, player, profile } = question;
  const queries = useQueryClient();
  const isDraft = source === 'draft';
  const keyOf = (count: number) => ['rehearsal', question, language, shop, seed, text, isDraft ? count : 0];
  const body = {
    source,
    shop,
    ...(at === undefined ? {} : { at }),
    ...(player === undefined
      ? { profile: { attributes: { ...profile?.attributes }, holds: { ...profile?.holds } } }
      : { player }),
    ...(/^\d{1,9}$/.test(seed) ? { seed: Number(seed) } : {}),
    ...(language === '' ? {} : { language }),
    steps,
  };
  const asked = useQuery({
    // A change of the draft plays the same steps again.
    queryKey: keyOf(saved),
    queryFn: async () => {
      const answer = await client.call('POST /rehearsals', { body });
      rehearsedKeep(answer.steps);
      return answer;
    },
    enabled: document !== undefined && shop !== '' && problem === undefined,
    placeholderData: keepLast,
  });
  /** What came of the same steps on the draft as it was. */
  const earlier = isDraft
    ? Array.from({ length: saved }, (_, count) => queries.getQueryData<Rehearsed>(keyOf(count))).findLast(Boolean)
    : undefined;
  return {
    source,
    document,
    form,
    choice,
    shop,
    setShop,
    seed,
    setSeed,
    problem,
    asked,
    rehearsed: asked.data,
    take: (step: Step): void => {
      setBack([]);
      put([...steps, step]);
    },
    /** The list of steps, with the way back and forth. */
    list: {
      earlier: earlier?.steps ?? asked.data?.steps ?? [],
      canRedo: back.length > 0,
      onGoTo: (count: number): void => {
        setBack([...back, ...steps.slice(count).reverse()]);
        put(steps.slice(0, count));
      },
      onRedo: (): void => {
        put([...steps, back.at(-1)!]);
        setBack(back.slice(0, -1));
      },
    },
    /** What is kept as a case, where something was done on the draft. */
    keeps:
      isDraft && steps.length > 0
        ? { text, onAsk: () => client.call('POST /rehearsals', { body: { ...body, keep: true } }) }
        : undefined,
  };
}

export function Rehearse() {
  const { source, document, form, choice, shop, setShop, seed, setSeed, problem, asked, rehearsed, take, list, keeps } =
    useRehearsal();
  if (!document)
    return source !== 'live' ? (
      <Waiting />
    ) : (
      <div className="flex flex-col gap-3">
        <div className="flex flex-wrap items-end gap-3">{form}</div>
        <Empty>Nothing is live yet: rehearse on the draft.</Empty>
      </div>
    );
  const labels = documentLabels(document);
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">
        {form}
        {choice}
        <Field label="Luck">
          {(id) => (
            <Input
              id={id}
              className="w-24"
              inputMode="numeric"
              placeholder={`${document.seed ?? 0}`}
              value={seed}
              onChange={({ target }) => setSeed(target.value)}
            />
          )}
        </Field>
      </div>
      {problem !== undefined && <Problem error={new Error(problem)} />}
      <Problem error={asked.error} />
      {shop === '' && <Empty>There is no shop yet: arrange one first.</Empty>}
      <div className="flex items-start gap-3 max-lg:flex-col max-lg:items-stretch">
        <div className="flex min-w-0 flex-1 flex-col gap-3">
          <Picks
            label="Shops"
            all={Object.entries(document.shops ?? {}).map(([id, { name, icon }]) => ({ id, name, icon }))}
            picked={shop}
            onPick={setShop}
          />
          {rehearsed?.front ? (
            <FrontSheet
              front={rehearsed.front as FrontView}
              labels={labels}
              zone={document.timeZone}
              act={(offer) => <Buy offer={offer} onTake={take} />}
            />
          ) : (
            asked.isPending && problem === undefined && shop !== '' && <Waiting />
          )}
        </div>
        <div className="sticky top-16 flex max-h-[calc(100vh-80px)] w-[400px] shrink-0 flex-col gap-3 overflow-auto max-lg:static max-lg:max-h-none max-lg:w-full">
          {rehearsed && (
            <>
              <Steps steps={rehearsed.steps} labels={labels} zone={document.timeZone} {...list} />
              {keeps && <Keep key={keeps.text} document={document} onAsk={keeps.onAsk} />}
              <Belongings {...{ document, labels, rehearsed, shop }} onTake={take} />
              <Deeds document={document} labels={labels} onTake={take} />
            </>
          )}
        </div>
      </div>
    </div>
  );
}

/** The same in one column beside the shop that is being arranged: always on the draft. */
export function RehearseBeside() {
  const { document, shop, problem, asked, rehearsed, take, list, keeps } = useRehearsal('draft');
  if (!document || shop === '') return null;
  const labels = documentLabels(document);
  return (
    <div
      role="region"
      aria-label="As players see it"
      className="sticky top-16 flex max-h-[calc(100vh-80px)] w-[360px] shrink-0 flex-col gap-3 max-lg:static max-lg:max-h-none max-lg:w-full"
    >
      {problem !== undefined && <Problem error={new Error(problem)} />}
      <Problem error={asked.error} />
      {rehearsed?.front ? (
        <>
          {rehearsed.steps.length > 0 && (
            <Steps steps={rehearsed.steps} labels={labels} zone={document.timeZone} {...list} />
          )}
          {/* What came of a press stays in sight while the shop is scrolled. */}
          <div tabIndex={0} className="flex min-h-0 flex-1 flex-col gap-3 overflow-auto">
            {keeps && <Keep key={keeps.text} document={document} onAsk={keeps.onAsk} />}
            <FrontSheet
              front={rehearsed.front as FrontView}
              labels={labels}
              zone={document.timeZone}
              act={(offer) => <Buy offer={offer} onTake={take} />}
              bars={3}
            />
            <Belongings {...{ document, labels, rehearsed, shop }} onTake={take} />
            <Deeds document={document} labels={labels} onTake={take} />
          </div>
        </>
      ) : (
        problem === undefined && !asked.error && <Waiting />
      )}
    </div>
  );
}

/** One press for each way to pay; what is refused can be pressed as well, as in a game. */
function Buy({ offer, onTake }: { offer: FrontOffer; onTake: (step: Step) => void }) {
  const [times, setTimes] = useState('1');
  const count = Math.max(1, Math.floor(Number(times)) || 1);
  const step = (pay?: string): Step => ({
    buy: offer.id,
    ...(count > 1 ? { times: count } : {}),
    ...(pay === undefined ? {} : { pay }),
  });
  return (
    <p className="flex flex-wrap items-center gap-1">
      {offer.choices.length > 1 ? (
        offer.choices.map(({ pay }) => (
          <Button
            key={pay}
            className="py-0"
            aria-label={`Buy ${offer.name} with ${pay}`}
            onClick={() => onTake(step(pay))}
          >
            Buy with {pay}
          </Button>
        ))
      ) : (
        <Button className="py-0" aria-label={`Buy ${offer.name}`} onClick={() => onTake(step())}>
          Buy
        </Button>
      )}
      <Input
        aria-label={`Times ${offer.name}`}
        className="w-12 py-0 text-right text-sm"
        inputMode="numeric"
        value={times}
        onChange={({ target }) => setTimes(target.value)}
      />
      <span className="text-sm text-soft">times</span>
    </p>
  );
}

/** Purse and belongings where they stand, with what the last step moved, and what can be done with each thing. */
function Belongings({
  document,
  labels,
  rehearsed: { steps, end, front },
  shop,
  onTake,
}: {
  document: EconomyDocument;
  labels: AssetLabels;
  rehearsed: Rehearsed;
  shop: string;
  onTake: (step: Step) => void;
}) {
  const moved = steps.at(-1)?.moved ?? {};
  const ids = [...Object.keys(document.currencies ?? {}), ...Object.keys(document.items ?? {})];
  const held = ids.filter((id) => (end.holds[id] ?? 0) > 0 || document.currencies?.[id] || moved[id] !== undefined);
  const sold = new Set((front?.buysBack ?? []).map(({ item }) => item));
  return (
    <Sheet title="Purse and belongings">
      <ul aria-label="Purse and belongings" className="flex flex-col">
        {held.map((id) => {
          const item = document.items?.[id];
          const change = moved[id];
          return (
            <li
              key={id}
              className={`flex items-center gap-1 border-b border-line/50 px-1 ${change === undefined ? '' : 'bg-tint-copper'}`}
            >
              <span className="min-w-0 flex-1 truncate">{amountText(labels, id, end.holds[id] ?? 0)}</span>
              {change !== undefined && (
                <span className="text-sm font-semibold">
                  {change > 0 ? '+' : '-'}
                  {unitsFormat(Math.abs(change), labels(id)?.decimals ?? 0)}
                </span>
              )}
              {item && <ItemActs {...{ id, item, sells: sold.has(id), shop, onTake }} />}
            </li>
          );
        })}
      </ul>
      <p className="mt-1 text-sm text-soft">
        {instantWords(end.atMs, document.timeZone)}
        {Object.entries(end.attributes).map(([name, value]) => `; ${name} ${String(value)}`)}
      </p>
    </Sheet>
  );
}

type Item = NonNullable<EconomyDocument['items']>[string];

function ItemActs({
  id,
  item,
  sells,
  shop,
  onTake,
}: {
  id: string;
  item: Item;
  sells: boolean;
  shop: string;
  onTake: (step: Step) => void;
}) {
  const acts: { words: string; step: Step; can: boolean }[] = [
    { words: 'Use', step: { use: id }, can: item.kind === 'consumable' || item.onUse !== undefined },
    { words: 'Open', step: { open: id }, can: item.kind === 'box' },
    { words: 'Collect', step: { collect: id }, can: item.yields !== undefined },
    { words: 'Sell', step: { sell: id, shop }, can: sells },
  ];
  return (
    <>
      {acts
        .filter(({ can }) => can)
        .map(({ words, step }) => (
          <Button
            key={words}
            className="px-1.5 py-0 text-sm"
            aria-label={`${words} ${item.name}`}
            onClick={() => onTake(step)}
          >
            {words}
          </Button>
        ))}
    </>
  );
}
