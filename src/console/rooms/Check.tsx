/** Check: one purchase explained in full. Nothing is bought. */
import { useQuery } from '@tanstack/react-query';
import { unitsFormat } from '../../core/amount/index.js';
import { basketText, documentLabels } from '../../core/texts/amounts.js';
import type { AssetLabels, ExplainedVerdict } from '../../core/texts/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { client, offerName, useSource } from '../api.js';
import { Picker } from '../fields/Picker.js';
import type { Nameable } from '../fields/nameable.js';
import { PersonaChoice, PlayingTimeLine } from '../parts/playtime.js';
import { useParam } from '../parts/search.js';
import { keepLast, useQuestion } from '../parts/who.js';
import {
  Badge,
  Choice,
  DataTable,
  Empty,
  Field,
  Input,
  PriceTag,
  Problem,
  Sheet,
  Waiting,
  instantWords,
} from '../parts/ui.js';

const ASK = '(not chosen)';

/** By name and shop, which tells apart what several of them sell. */
function offersOf(document: EconomyDocument): Nameable[] {
  return Object.values(document.shops ?? {}).flatMap((shop) =>
    Object.values(shop.shelves).flatMap((shelf) =>
      Object.entries(shelf.offers).map(([id, offer]) => ({
        id,
        label: `${offerName(document, id, offer)}, ${shop.name}`,
        hint: '',
      })),
    ),
  );
}

export default function Check() {
  const [source] = useParam('source', 'live');
  const { data: document } = useSource(source);
  const { question, form } = useQuestion(document);
  const offers = document ? offersOf(document) : [];
  const [offer, setOffer] = useParam('offer', offers[0]?.id ?? '');
  const [times, setTimes] = useParam('times', '1');
  const [pay, setPay] = useParam('pay', '');
  const { problem, source: from, ...asked } = question;
  const verdict = useQuery({
    queryKey: ['verdict', offer, times, pay, question],
    placeholderData: keepLast,
    enabled: offer !== '' && document !== undefined && problem === undefined,
    queryFn: async () =>
      (
        await client.call('POST /checks', {
          body: { checks: [{ offer, times: Number(times), ...(pay ? { pay } : {}), ...asked }], source: from },
        })
      ).verdicts[0]!,
  });
  const choices = verdict.data?.choices ?? [];
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">
        <h1 className="mr-2 text-2xl">Check</h1>
        <Field label="Offer">
          {(id) => (
            <Picker
              id={id}
              word="offer"
              value={offer}
              options={offers}
              needed
              onPick={(next) => setOffer(next ?? '')}
              className="w-72"
            />
          )}
        </Field>
        <Field label="Times">
          {(id) => (
            <Input
              id={id}
              type="number"
              min={1}
              className="w-20"
              value={times}
              onChange={(event) => setTimes(event.target.value || '1')}
            />
          )}
        </Field>
        {choices.length > 1 && (
          <Field label="Pay with">
            {(id) => (
              <Choice
                id={id}
                value={pay || ASK}
                options={[
                  { value: ASK, label: 'not chosen yet' },
                  ...choices.map((choice) => ({ value: choice.pay, label: choice.pay })),
                ]}
                onChange={(value) => setPay(value === ASK ? '' : value)}
              />
            )}
          </Field>
        )}
        {form}
      </div>
      {problem && <Problem error={new Error(problem)} />}
      <Problem error={verdict.error} />
      {verdict.data ? (
        <VerdictSheet verdict={verdict.data} labels={documentLabels(document)} zone={document?.timeZone} />
      ) : offers.length === 0 ? (
        <Empty>There is no offer to check yet.</Empty>
      ) : (
        !problem && !verdict.error && <Waiting />
      )}
    </div>
  );
}

function VerdictSheet({
  verdict,
  labels,
  zone,
}: {
  verdict: ExplainedVerdict;
  labels: AssetLabels;
  zone: string | undefined;
}) {
  return (
    <div className="grid items-start gap-3 lg:grid-cols-2">
      <section
        aria-label="Verdict"
        className={`rounded-sheet border-2 bg-sheet p-4 lg:col-span-2 ${verdict.allowed ? 'border-verdigris' : 'border-brick'}`}
      >
        <p className={`font-display text-2xl font-semibold ${verdict.allowed ? 'text-verdigris' : 'text-brick'}`}>
          {verdict.allowed ? '✓ Allowed' : '✗ Refused'}
        </p>
        <p>
          {verdict.times > 1 && `${verdict.times} times `}
          <strong>{verdict.name}</strong> at {instantWords(verdict.atMs, zone)}
        </p>
        <ul className="mt-2 flex flex-col gap-1">
          {verdict.reasons.map((reason) => (
            <li key={reason.code + reason.sentence}>
              <Badge tone="bad">{reason.code}</Badge> {reason.sentence}
            </li>
          ))}
        </ul>
      </section>
      <Sheet title="Price" actions={<PersonaChoice />}>
        {verdict.price ? (
          <dl className="grid grid-cols-[9rem_1fr] gap-y-1">
            <dt className="text-soft">charged</dt>
            <dd>
              <PriceTag total={verdict.price.total} money={verdict.price.money} labels={labels} />
              <PlayingTimeLine units={verdict.price.total} />
            </dd>
            {!verdict.price.money && (
              <>
                <dt className="text-soft">for the first</dt>
                <dd>{basketText(labels, verdict.price.base)}</dd>
              </>
            )}
            <dt className="text-soft">worked out from</dt>
            <dd>
              {verdict.price.inputs.length === 0
                ? 'a fixed price'
                : verdict.price.inputs.map(({ name, value }) => `${name} = ${String(value)}`).join(', ')}
            </dd>
          </dl>
        ) : verdict.choices.length > 0 ? (
          <ul className="flex flex-col gap-1">
            {verdict.choices.map(({ pay, total, money }) => (
              <li key={pay}>
                <PriceTag total={total} money={money} labels={labels} />
                <PlayingTimeLine units={total} />
              </li>
            ))}
          </ul>
        ) : (
          <Empty>There is no price to show.</Empty>
        )}
      </Sheet>
      <Sheet title="Before and after">
        {Object.keys(verdict.before).length === 0 ? (
          <Empty>Nothing would move.</Empty>
        ) : (
          <DataTable
            label="Before and after"
            rows={Object.keys(verdict.before)}
            rowKey={(asset) => asset}
            columns={[
              { head: 'what', cell: (asset) => labels(asset)?.name ?? asset },
              {
                head: 'before',
                right: true,
                cell: (asset) => unitsFormat(verdict.before[asset]!, labels(asset)?.decimals ?? 0),
              },
              {
                head: 'after',
                right: true,
                cell: (asset) => (
                  <span className={verdict.after[asset]! < 0 ? 'font-semibold text-brick' : ''}>
                    {unitsFormat(verdict.after[asset]!, labels(asset)?.decimals ?? 0)}
                  </span>
                ),
              },
            ]}
          />
        )}
        {Object.keys(verdict.gives).length > 0 && <p className="mt-2">Gives {basketText(labels, verdict.gives)}.</p>}
      </Sheet>
      <Sheet title="Limits and stock" className="lg:col-span-2">
        {verdict.limits.length === 0 && !verdict.stock ? (
          <Empty>No limit, and stock that never runs out.</Empty>
        ) : (
          <ul>
            {verdict.limits.map(({ period, most, used, left, resetsMs }) => (
              <li key={period}>
                Per {period}: {used} of {most} used, {left} left
                {resetsMs === null ? '' : `; starts again ${instantWords(resetsMs, zone)}`}
              </li>
            ))}
            {verdict.stock && (
              <li>
                Stock: {verdict.stock.left} left{' '}
                {verdict.stock.scope === 'shared' ? 'for all players' : 'for this player'}
                {verdict.stock.restocksMs === null ? '' : `; more at ${instantWords(verdict.stock.restocksMs, zone)}`}
              </li>
            )}
          </ul>
        )}
      </Sheet>
    </div>
  );
}
