/** What is known of one entry of the calendar, and what can be done about it. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { CalendarEntry } from '../../core/calendar/index.js';
import type { EconomyDocument, SaleDocument } from '../../core/document/index.js';
import type { RotationRequest } from '../../contract/index.js';
import { client } from '../api.js';
import { Panel } from '../parts/Panel.js';
import { useEdits } from '../parts/edits.js';
import { FREQUENCY_OPTIONS } from '../fields/frequency.js';
import type { Frequency } from '../fields/frequency.js';
import { againStep } from './timeline.js';
import { CopyAndDelete } from '../parts/about.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { PersonaChoice, usePlaytime } from '../parts/playtime.js';
import { playingTimeShort } from '../../core/playtime/words.js';
import { basketText } from '../../core/texts/amounts.js';
import { Badge, Button, Choice, Field, Problem, instantWords } from '../parts/ui.js';
import { useState } from 'react';

interface PanelProps {
  entry: CalendarEntry;
  shop: string | null;
  document: EconomyDocument;
  source: 'live' | 'draft';
  onClose: () => void;
}

export function EntryPanel({ entry, shop, document, source, onClose }: PanelProps) {
  return (
    <Panel title={entry.name} of={`${entry.kind} ${entry.id}`} width="w-80" onClose={onClose}>
      <div className="flex flex-col gap-3">
        <Known entry={entry} zone={document.timeZone} />
        {entry.kind === 'rotation' && shop !== null && (
          <Period entry={entry} shop={shop} source={source} zone={document.timeZone} />
        )}
        {(entry.kind === 'offer' || entry.kind === 'open') && (
          <Link
            className="underline"
            to={`/shops?mode=arrange&shop=${shop ?? ''}&open=${encodeURIComponent(entry.pointer)}`}
          >
            Open it in Shops
          </Link>
        )}
        {entry.kind === 'release' && (
          <Link className="underline" to="/publish">
            Open Publish
          </Link>
        )}
      </div>
    </Panel>
  );
}

/** A sale, whether or not it runs in what is shown: its form stays while it is moved about. */
export function SalePanel({
  id,
  sale,
  entry,
  zone,
  source,
  onClose,
}: {
  id: string;
  sale: SaleDocument;
  /** The time it runs that was chosen, or the first that is shown. */
  entry: CalendarEntry | undefined;
  zone: string;
  source: 'live' | 'draft';
  onClose: () => void;
}) {
  const pointer = `/sales/${id}`;
  return (
    <Panel title={sale.name} of={`sale ${id}`} width="w-80" onClose={onClose}>
      <div className="flex flex-col gap-3">
        {entry ? <Known entry={entry} zone={zone} /> : <p className="text-sm">It does not run in what is shown.</p>}
        {source === 'draft' ? (
          <div className="flex flex-col gap-3">
            <ComesAgain id={id} sale={sale} />
            <SchemaForm pointer={pointer} value={sale} />
            <SalePrices sale={id} />
            <CopyAndDelete pointer={pointer} name={sale.name} onGone={onClose} onMade={onClose} />
          </div>
        ) : (
          <p className="text-sm text-soft">Look at the draft to change it.</p>
        )}
      </div>
    </Panel>
  );
}

/** What its offers ask while it runs, and what that takes in playing time. */
function SalePrices({ sale }: { sale: string }) {
  const { playtime } = usePlaytime();
  const rows = (playtime?.ladder.rungs ?? []).flatMap((rung) =>
    rung.reduced
      .filter((one) => one.sale === sale)
      .map(({ price, time }) => ({ ...rung, lower: price, lowerTime: time })),
  );
  if (!playtime || rows.length === 0) return null;
  return (
    <section aria-label="Prices while it runs" className="flex flex-col gap-1">
      <h3 className="text-sm font-semibold text-soft">Prices while it runs</h3>
      <PersonaChoice />
      <ul className="max-h-72 overflow-auto text-sm">
        {rows.map(({ offer, name, price, time, lower, lowerTime }) => (
          <li key={offer} className="border-b border-line/60 py-0.5">
            {name}: <s className="text-soft">{basketText(playtime.labels, price)}</s>{' '}
            <strong>{basketText(playtime.labels, lower)}</strong>
            <br />
            <span className="text-soft" title={playtime.words(lowerTime)}>
              {playingTimeShort(lowerTime)}, instead of {playingTimeShort(time)}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** Lets a sale of one time come again with the same hours. What comes again already has its rule under Runs. */
function ComesAgain({ id, sale }: { id: string; sale: SaleDocument }) {
  const { apply } = useEdits();
  if (againStep(id, sale, 'WEEKLY') === undefined) return null;
  return (
    <Field label="Comes again" help="With the same hours.">
      {(field) => (
        <Choice
          id={field}
          value="once"
          options={[{ value: 'once', label: 'no, once' }, ...FREQUENCY_OPTIONS]}
          onChange={(next) => {
            const step = next === 'once' ? undefined : againStep(id, sale, next as Frequency);
            if (step) apply(step);
          }}
        />
      )}
    </Field>
  );
}

/** When an entry is, what is wrong with it, and what it brings. */
function Known({ entry, zone }: { entry: CalendarEntry; zone: string }) {
  return (
    <>
      <p className="text-sm">
        {instantWords(entry.startMs, zone)}
        {entry.endMs > entry.startMs && (
          <>
            <br />
            to {instantWords(entry.endMs, zone)}
          </>
        )}
      </p>
      {entry.warnings.map((warning) => (
        <p key={warning}>
          <Badge tone="bad">warning</Badge> {warning}
        </p>
      ))}
      {entry.recurs && entry.kind !== 'rotation' && (
        <p className="text-sm text-soft">It comes again: moving it moves every time.</p>
      )}
      {entry.offers.length > 0 && (
        <div>
          <h3 className="text-sm text-soft">{entry.kind === 'rotation' ? 'On show' : 'Lowers'}</h3>
          <ul className="list-disc pl-5 text-sm">
            {entry.offers.slice(0, 12).map(({ id, name }) => (
              <li key={id}>{name}</li>
            ))}
            {entry.offers.length > 12 && <li>and {entry.offers.length - 12} more</li>}
          </ul>
        </div>
      )}
    </>
  );
}

/** One period of a rotation: pins, what is taken out, and a redraw. They count for every release, and who did so is recorded. */
function Period({
  entry,
  shop,
  source,
  zone,
}: {
  entry: CalendarEntry;
  shop: string;
  source: 'live' | 'draft';
  zone: string;
}) {
  const queries = useQueryClient();
  const at = new Date(entry.startMs).toISOString();
  const rotation = useQuery({
    queryKey: ['rotations', at, source],
    queryFn: () => client.call('GET /rotations', { query: { at, source } }),
  }).data?.items.find((one) => one.shop === shop && one.shelf === entry.id);
  const refresh = () =>
    Promise.all(['rotations', 'calendar', 'front'].map((key) => queries.invalidateQueries({ queryKey: [key] })));
  const record = useMutation({
    mutationFn: (change: RotationRequest) =>
      client.call('POST /rotations/{shop}/{shelf}/records', {
        params: { shop, shelf: entry.id },
        body: { ...change, at },
        query: { source },
      }),
    onSuccess: refresh,
  });
  const end = useMutation({
    mutationFn: (id: number) => client.call('DELETE /rotations/records/{record}', { params: { record: id } }),
    onSuccess: refresh,
  });
  const [pin, setPin] = useState('');
  if (!rotation) return null;
  const absent = rotation.pool.filter(({ id }) => !rotation.shown.some((one) => one.id === id));
  return (
    <div className="flex flex-col gap-2 border-t border-line pt-2">
      <Field label="Put on show in this period">
        {(id) => (
          <span className="flex gap-1">
            <Choice
              id={id}
              value={pin}
              options={absent.map((offer) => ({ value: offer.id, label: offer.name }))}
              onChange={setPin}
            />
            <Button disabled={pin === ''} onClick={() => record.mutate({ pin }, { onSuccess: () => setPin('') })}>
              Pin
            </Button>
          </span>
        )}
      </Field>
      <span className="flex flex-wrap gap-1">
        {rotation.shown.map(({ id, name }) => (
          <Button key={id} className="py-0 text-sm" onClick={() => record.mutate({ without: id })}>
            Take out {name}
          </Button>
        ))}
        <Button className="py-0 text-sm" onClick={() => record.mutate({ redraw: true })}>
          Redraw the period
        </Button>
      </span>
      <Problem error={record.error ?? end.error} />
      {rotation.records.length > 0 && (
        <ul className="flex flex-col gap-1 text-sm" aria-label="Recorded for this period">
          {rotation.records.map(({ id, kind, offer, madeBy, madeMs }) => (
            <li key={id} className="flex items-start gap-2">
              <span className="flex-1">
                {kind === 'pin' ? 'pinned' : 'taken out'}:{' '}
                {rotation.pool.find((one) => one.id === offer)?.name ?? offer}, by {madeBy},{' '}
                {instantWords(madeMs, zone)}
              </span>
              <Button className="py-0 text-sm" onClick={() => end.mutate(id)}>
                Undo
              </Button>
            </li>
          ))}
        </ul>
      )}
      <p className="text-sm text-soft">It counts at once, for every release, and is recorded with your name.</p>
    </div>
  );
}
