/** Calendar: what a stretch of time brings, shop by shop; sales and windows are moved and stretched where they lie. */
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import type { CalendarEntry } from '../../core/calendar/index.js';
import { client, useDraft, useSource } from '../api.js';
import { EntryPanel, SalePanel } from '../calendar/EntryPanel.js';
import { KIND_WORDS, Timeline, entryKey } from '../calendar/Timeline.js';
import { SCALES, canDrag, dragStep, startAfter, startAround, stretchFrom, timeWords } from '../calendar/timeline.js';
import type { Stretch } from '../calendar/timeline.js';
import { When } from '../fields/When.js';
import { BESIDE } from '../parts/Panel.js';
import { AddByName } from '../parts/AddByName.js';
import { EditBar } from '../parts/EditBar.js';
import { useEdits } from '../parts/edits.js';
import { addOperations } from '../parts/step.js';
import { useParam, useSetParams } from '../parts/search.js';
import { keepLast } from '../parts/who.js';
import { Badge, Button, Choice, DataTable, Empty, Field, Problem, Sheet, Waiting } from '../parts/ui.js';

const ALL = '(all)';
const DATE_LENGTH = '2027-03-01'.length;

export default function Calendar() {
  const [written, setSource] = useParam('source', 'draft');
  const source = written === 'live' ? 'live' : 'draft';
  const { data: document } = useSource(source);
  const draft = useDraft().data?.document;
  const edits = useEdits();
  const [scaleName, setScale] = useParam('scale', 'fortnight');
  const scale = SCALES[scaleName] ?? SCALES['fortnight']!;
  const [from, setFrom] = useParam('from', '');
  const [shop, setShop] = useParam('shop', '');
  /** The sale that a link led to. */
  const [open, setOpen] = useParam('open', '');
  const setParams = useSetParams();
  const saleId = open.split('/')[2] ?? '';
  // What is shown of the draft is ahead of what is saved.
  const sale = open === `/sales/${saleId}` ? (source === 'draft' ? draft : document)?.sales?.[saleId] : undefined;
  const [view, setView] = useParam('view', 'line');
  const [selected, setSelected] = useState<{ key: string; shop: string | null } | null>(null);
  // The clock is read once: a line that creeps on while one works only disturbs.
  const [nowMs] = useState(() => Date.now());
  const zone = document?.timeZone ?? 'UTC';
  /** Where it began when the link was followed: what is shown stays there when it is moved, or closed. */
  const [followed, setFollowed] = useState({ open: '', start: '' });
  if (sale && followed.open !== open) setFollowed({ open, start: sale.from?.slice(0, DATE_LENGTH) ?? '' });
  const start = from || followed.start || startAround(zone, nowMs, scale);
  const stretch = stretchFrom(zone, start, scale);
  const query = stretch && {
    from: new Date(stretch.fromMs).toISOString(),
    to: new Date(stretch.toMs).toISOString(),
    source,
    ...(shop === '' ? {} : { shop }),
  };
  const calendar = useQuery({
    // The draft is in the key, so that what is moved is shown where it now lies.
    queryKey: ['calendar', query, source === 'draft' ? edits.saved : 0],
    queryFn: () => client.call('GET /calendar', { query: query! }),
    enabled: query !== undefined && document !== undefined,
    placeholderData: keepLast,
  });
  if (!document || !draft) return <Waiting />;
  const lanes = calendar.data?.lanes ?? [];
  const shown = lanes.flatMap((lane) => lane.entries.map((entry) => ({ entry, shop: lane.shop })));
  // What is edited in its panel lies elsewhere in time: a sale stays chosen wherever it goes.
  const chosen =
    shown.find(({ entry, shop: of }) => selected && entryKey(entry) === selected.key && of === selected.shop) ??
    shown.find(({ entry }) => sale && entry.pointer === open);
  const onSelect = (entry: CalendarEntry, of: string | null): void => {
    setSelected({ key: entryKey(entry), shop: of });
    // What is shown stays where it is.
    setParams({ open: entry.kind === 'sale' ? entry.pointer : '', from: start });
  };
  const onClose = () => {
    setSelected(null);
    setOpen('');
  };
  const warned = lanes.flatMap((lane) =>
    lane.entries.filter(({ warnings }) => warnings.length > 0).map((entry) => ({ entry, lane })),
  );
  const onMove = (entry: CalendarEntry, to: { startMs: number; endMs: number }) => {
    const step = dragStep(draft, zone, entry, to);
    if (step) edits.apply(step);
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-end gap-3">
        <h1 className="text-2xl">Calendar</h1>
        <Field label="Economy">
          {(id) => (
            <Choice
              id={id}
              value={source}
              options={[
                { value: 'draft', label: 'the draft' },
                { value: 'live', label: 'what is live' },
              ]}
              onChange={setSource}
            />
          )}
        </Field>
        <Field label="Shop">
          {(id) => (
            <Choice
              id={id}
              value={shop || ALL}
              options={[
                { value: ALL, label: 'all shops' },
                ...Object.entries(document.shops ?? {}).map(([value, { name: label }]) => ({ value, label })),
              ]}
              onChange={(next) => setShop(next === ALL ? '' : next)}
            />
          )}
        </Field>
        <Field label="Shows">
          {(id) => (
            <Choice
              id={id}
              value={scaleName}
              options={Object.entries(SCALES).map(([value, { name: label }]) => ({ value, label }))}
              onChange={setScale}
            />
          )}
        </Field>
        {stretch && <Steps stretch={stretch} onFrom={setFrom} scaleName={scaleName} start={start} nowMs={nowMs} />}
        {source === 'draft' && <EditBar />}
      </div>
      <Problem error={calendar.error} />
      {!stretch && <Problem error={new Error(`"${from}" is no date. Write it as 2027-03-01.`)} />}
      <div className="flex flex-wrap items-center gap-2">
        {source === 'draft' && stretch && <NewSale stretch={stretch} shop={shop} start={start} />}
        <Button onClick={() => setView(view === 'line' ? 'table' : 'line')}>
          {view === 'line' ? 'As a table' : 'As a time line'}
        </Button>
        {query && (
          <a
            className="underline"
            href={`/api/v1/calendar.ics?${new URLSearchParams(query).toString()}`}
            download="calendar.ics"
          >
            Save as iCalendar
          </a>
        )}
        <Link className="underline" to="/access?role=calendar">
          Follow it in a calendar program
        </Link>
        <span className="text-sm text-soft">
          {source === 'live'
            ? 'What is live cannot be moved here: look at the draft.'
            : view === 'line' &&
              'Drag an entry to move it, its ends to stretch it; or focus one: Alt and an arrow moves it, with Shift its end.'}
        </span>
      </div>
      {stretch && calendar.data && (
        <div className={BESIDE}>
          <div className="flex min-w-0 flex-1 flex-col gap-3">
            {view === 'line' ? (
              <Timeline
                lanes={lanes}
                stretch={stretch}
                scale={scale}
                nowMs={nowMs}
                selected={(entry) => (sale ? entry.pointer === open : selected?.key === entryKey(entry))}
                onSelect={onSelect}
                movable={(entry) => source === 'draft' && canDrag(draft, entry)}
                onMove={onMove}
              />
            ) : (
              <Sheet>
                <DataTable
                  label="Calendar"
                  rows={lanes
                    .flatMap((lane) => lane.entries.map((entry) => ({ lane, entry })))
                    .sort((a, b) => a.entry.startMs - b.entry.startMs)}
                  rowKey={({ entry, lane }) => `${lane.shop} ${entryKey(entry)}`}
                  columns={[
                    { head: 'from', whole: true, cell: ({ entry }) => timeWords(zone, entry.startMs) },
                    {
                      head: 'until',
                      whole: true,
                      cell: ({ entry }) => (entry.endMs > entry.startMs ? timeWords(zone, entry.endMs) : ''),
                    },
                    { head: 'where', cell: ({ lane }) => lane.name },
                    { head: 'what', whole: true, cell: ({ entry }) => KIND_WORDS[entry.kind] },
                    { head: 'name', cell: ({ entry }) => entry.name },
                    { head: 'offers', cell: ({ entry }) => entry.offers.map(({ name }) => name).join(', ') },
                    { head: 'warnings', cell: ({ entry }) => entry.warnings.join('; ') },
                  ]}
                />
              </Sheet>
            )}
            {calendar.data.cut && <p className="text-sm">There is more than is shown: choose a shorter stretch.</p>}
            {warned.length > 0 && (
              <Sheet title="Conflicts">
                <ul className="flex flex-col gap-1">
                  {warned.map(({ entry, lane }) => (
                    <li key={`${lane.shop} ${entryKey(entry)}`}>
                      <Badge tone="bad">warning</Badge> {entry.name}, {timeWords(zone, entry.startMs)}, {lane.name}:{' '}
                      {entry.warnings.join('; ')}
                    </li>
                  ))}
                </ul>
              </Sheet>
            )}
            {lanes.every(({ entries }) => entries.length === 0) && (
              <Empty>
                Nothing happens in this stretch. Name a new sale above, or give a shelf a rotation in Shops.
              </Empty>
            )}
          </div>
          {sale && (
            <SalePanel key={open} id={saleId} sale={sale} entry={chosen?.entry} {...{ zone, source, onClose }} />
          )}
          {chosen && !sale && (
            <EntryPanel
              key={entryKey(chosen.entry)}
              entry={chosen.entry}
              shop={chosen.shop}
              document={document}
              source={source}
              onClose={onClose}
            />
          )}
        </div>
      )}
    </div>
  );
}

function Steps({
  stretch,
  scaleName,
  start,
  nowMs,
  onFrom,
}: {
  stretch: Stretch;
  scaleName: string;
  start: string;
  nowMs: number;
  onFrom: (from: string) => void;
}) {
  const scale = SCALES[scaleName] ?? SCALES['fortnight']!;
  return (
    <>
      <Field label="From">
        {(id) => (
          <When
            id={id}
            value={start.length === 10 ? `${start}T00:00` : start.slice(0, 16)}
            withTime
            onKeep={(next) => next !== undefined && onFrom(next)}
          />
        )}
      </Field>
      <span className="flex gap-1">
        <Button onClick={() => onFrom(startAfter(stretch, scale, -1))} aria-label="Earlier">
          ‹
        </Button>
        <Button onClick={() => onFrom(startAround(stretch.zone, nowMs, scale))}>Now</Button>
        <Button onClick={() => onFrom(startAfter(stretch, scale, 1))} aria-label="Later">
          ›
        </Button>
      </span>
    </>
  );
}

/** A sale over the middle third of what is shown, of a tenth, to be changed in its panel from there. */
function NewSale({ stretch, shop, start }: { stretch: Stretch; shop: string; start: string }) {
  const document = useDraft().data!.document;
  const edits = useEdits();
  const setParams = useSetParams();
  const third = (stretch.toMs - stretch.fromMs) / 3;
  const add = (id: string, name: string) => {
    const [from, until] = [stretch.fromMs + third, stretch.toMs - third].map((ms) =>
      startAround(stretch.zone, ms, SCALES[third < 86_400_000 ? 'hour' : 'day']!),
    );
    const value = {
      name,
      shops: [shop || Object.keys(document.shops ?? {})[0]!],
      percent: 10,
      from: from!,
      until: until!,
    };
    edits.apply({
      operations: addOperations(document, 'sales', id, value),
    });
    setParams({ view: '', open: `/sales/${id}`, from: start });
  };
  return <AddByName what="sale" taken={(id) => document.sales?.[id] !== undefined} onAdd={add} />;
}
