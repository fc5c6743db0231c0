/** Shops being arranged: shelves and offers are made, named, copied, moved by mouse or keyboard, and removed. */
import { useMemo, useState } from 'react';
import type { DragEvent, KeyboardEvent } from 'react';
import { Link } from 'react-router';
import type { EconomyDocument, OfferDocument, ShopDocument } from '../../core/document/index.js';
import { CELLS } from '../../core/catalog/cell.js';
import { freeId } from '../../core/schema/ids.js';
import { offerName, useAudit, useCases, useDraft } from '../api.js';
import { BESIDE, Panel } from '../parts/Panel.js';
import { AddByName } from '../parts/AddByName.js';
import { CopyAndDelete } from '../parts/about.js';
import { EditBar } from '../parts/EditBar.js';
import { useEdits } from '../parts/edits.js';
import { addOperations, fieldOperation } from '../parts/step.js';
import { CaseMark, brokenOnes } from '../parts/cases.js';
import { SEVERITY_TONE, caseLink } from '../parts/findings.js';
import { Icon } from '../parts/Icon.js';
import { Picks } from '../parts/Picks.js';
import { useJustMade } from '../parts/justMade.js';
import { SchemaForm } from '../parts/SchemaForm.js';
import { Picker } from '../fields/Picker.js';
import { focusOnce, ifShown } from '../fields/leaving.js';
import { useMaker } from '../fields/making.js';
import { nameables } from '../fields/nameable.js';
import { TimeNote, usePlaytime } from '../parts/playtime.js';
import { useParam, useSetParams } from '../parts/search.js';
import { Badge, Button, Empty, Field, Input, Problem, Waiting } from '../parts/ui.js';
import { Money } from './Money.js';
import { RehearseBeside } from './Rehearse.js';
import { Tiers } from './Tiers.js';

/** Pixels from which on the list, what players see and what is open fit beside each other. */
const ROOM_FOR_BOTH = 1600;

export function Arrange() {
  const document = useDraft().data?.document;
  const edits = useEdits();
  const shops = Object.entries(document?.shops ?? {});
  const [shop] = useParam('shop', shops[0]?.[0] ?? '');
  const [open, setOpen] = useParam('open', '');
  // Where there is room for both, they stand side by side.
  const [beside, setBeside] = useParam('beside', window.innerWidth >= ROOM_FOR_BOTH ? 'yes' : 'no');
  const isBeside = beside === 'yes';
  const setParams = useSetParams();
  const [error, setError] = useState<unknown>(null);
  const { fresh, made, mark } = useJustMade(open, setOpen);
  if (!document) return <Waiting />;
  const chosen = document.shops?.[shop];
  const move = (pointer: string, before: string | undefined, into?: string) => {
    setError(null);
    edits
      .run({
        kind: 'move',
        pointer,
        ...(before === undefined ? {} : { before }),
        ...(into === undefined ? {} : { into }),
      })
      .then(({ made }) => made && setOpen(made), setError);
  };
  const addShop = (wanted: string, name: string) => {
    const id = freeId(wanted, (one) => document.shops?.[one] !== undefined);
    edits.apply({
      operations: addOperations(document, 'shops', id, { name, shelves: {} }),
    });
    mark(`/shops/${id}`);
    setParams({ shop: id, open: `/shops/${id}` });
  };
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-2">
        <Picks
          label="Shops to arrange"
          all={shops.map(([id, { name, icon }]) => ({ id, name, icon }))}
          picked={shop}
          onPick={(id) => setParams({ shop: id, open: '' })}
        />
        <AddByName what="shop" onAdd={addShop} />
        <Button
          aria-pressed={isBeside}
          look={isBeside ? 'pressed' : 'plain'}
          onClick={() => setBeside(isBeside ? 'no' : 'yes')}
        >
          Players' view
        </Button>
        <EditBar />
      </div>
      <Problem error={error} />
      {chosen ? (
        <div className={BESIDE}>
          <div className="flex min-w-0 flex-1 flex-col gap-3">
            <ShopShelves
              id={shop}
              shop={chosen}
              document={document}
              open={open}
              onOpen={setOpen}
              onMade={made}
              onMove={move}
            />
            <p className="text-sm text-soft">
              Drag offers and shelves to move them, or focus one and press Alt and an arrow. Enter opens it. Ctrl+Z
              undoes.
            </p>
          </div>
          {isBeside && <RehearseBeside />}
          <OpenThing
            pointer={open || `/shops/${shop}`}
            document={document}
            fresh={fresh}
            onOpen={setOpen}
            onMade={made}
            onShop={(id) => setParams({ shop: id, open: '' })}
          />
        </div>
      ) : (
        <Empty>There is no shop yet. Name the first one above.</Empty>
      )}
    </div>
  );
}

type Move = (pointer: string, before: string | undefined, into?: string) => void;

/** What Alt and an arrow do: the neighbour to stand before, or undefined for the end. */
function neighbour(ids: readonly string[], id: string, step: 1 | -1): { before: string | undefined } | undefined {
  const index = ids.indexOf(id);
  if (step === -1) return index > 0 ? { before: ids[index - 1] } : undefined;
  return index < ids.length - 1 ? { before: ids[index + 2] } : undefined;
}

function ShopShelves({
  id,
  shop,
  document,
  open,
  onOpen,
  onMade,
  onMove,
}: {
  id: string;
  shop: ShopDocument;
  document: EconomyDocument;
  open: string;
  onOpen: (pointer: string) => void;
  onMade: (pointer: string) => void;
  onMove: Move;
}) {
  const edits = useEdits();
  const shelves = `/shops/${id}/shelves`;
  const ids = Object.keys(shop.shelves);
  const addShelf = (wanted: string, name: string) => {
    const shelf = freeId(wanted, (one) => shop.shelves[one] !== undefined);
    edits.apply({
      operations: [{ op: 'add', path: `${shelves}/${shelf}`, value: { name, offers: {} } }],
    });
    onMade(`${shelves}/${shelf}`);
  };
  return (
    <>
      {ids.map((shelf) => {
        const pointer = `${shelves}/${shelf}`;
        const onKey = (event: KeyboardEvent) => {
          const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : undefined;
          const to = event.altKey && step ? neighbour(ids, shelf, step) : undefined;
          if (!to) return;
          event.preventDefault();
          onMove(pointer, to.before);
        };
        return (
          <section
            key={shelf}
            aria-label={`Shelf ${shop.shelves[shelf]!.name}`}
            className="rounded-sheet border border-line bg-sheet shadow-sheet"
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              const dragged = draggedPointer(event);
              if (dragged?.includes('/offers/')) onMove(dragged, undefined, `${pointer}/offers`);
              else if (dragged && dragged !== pointer) onMove(dragged, shelf, shelves);
            }}
          >
            <header className="flex items-center gap-3 border-b border-line px-4 py-1.5">
              <button
                type="button"
                draggable
                onDragStart={(event) => event.dataTransfer.setData('text/plain', pointer)}
                onClick={() => onOpen(pointer)}
                onKeyDown={onKey}
                aria-pressed={open === pointer}
                aria-label={`Shelf ${shop.shelves[shelf]!.name}`}
                className={`cursor-grab rounded-tag px-1 font-display text-lg font-semibold ${open === pointer ? 'bg-tint-copper' : ''}`}
              >
                ⠿ {shop.shelves[shelf]!.name}
              </button>
              {shop.shelves[shelf]!.hidden && <Badge>hidden</Badge>}
              <span className="ml-auto">
                <AddOffer shelf={`${pointer}/offers`} document={document} onMade={onMade} />
              </span>
            </header>
            <OfferRows
              pointer={`${pointer}/offers`}
              offers={shop.shelves[shelf]!.offers}
              document={document}
              open={open}
              onOpen={onOpen}
              onMove={onMove}
            />
          </section>
        );
      })}
      <AddByName what="shelf" onAdd={addShelf} />
    </>
  );
}

const draggedPointer = (event: DragEvent): string | undefined => {
  event.preventDefault();
  event.stopPropagation();
  const pointer = event.dataTransfer.getData('text/plain');
  return pointer.startsWith('/shops/') ? pointer : undefined;
};

function OfferRows({
  pointer,
  offers,
  document,
  open,
  onOpen,
  onMove,
}: {
  pointer: string;
  offers: Record<string, OfferDocument>;
  document: EconomyDocument;
  open: string;
  onOpen: (pointer: string) => void;
  onMove: Move;
}) {
  const findings = useAudit().data?.findings ?? [];
  const broken = new Set(brokenOnes(useCases().data).flatMap(({ offers: named }) => named));
  const { playtime } = usePlaytime();
  const times = useMemo(() => new Map(playtime?.ladder.rungs.map(({ pointer: at, time }) => [at, time])), [playtime]);
  const ids = Object.keys(offers);
  if (ids.length === 0) return <p className="px-4 py-3 text-sm text-soft">No offers yet: add one above.</p>;
  return (
    <ul>
      {ids.map((id) => {
        const offer = offers[id]!;
        const at = `${pointer}/${id}`;
        const item = typeof offer.gives === 'string' ? document.items?.[offer.gives] : undefined;
        const found = findings.find((finding) => finding.pointer === at || finding.pointer.startsWith(`${at}/`));
        // Which product of which store it is stands in the form.
        const price = CELLS.price.write(offer.price).replace(/ \[[^\]]*\]/g, '');
        return (
          <li
            key={id}
            onDragOver={(event) => event.preventDefault()}
            onDrop={(event) => {
              const dragged = draggedPointer(event);
              if (dragged?.includes('/offers/') && dragged !== at) onMove(dragged, id, pointer);
            }}
          >
            <button
              type="button"
              draggable
              onDragStart={(event) => event.dataTransfer.setData('text/plain', at)}
              onClick={() => onOpen(at)}
              onKeyDown={(event) => {
                const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : undefined;
                const to = event.altKey && step ? neighbour(ids, id, step) : undefined;
                if (!to) return;
                event.preventDefault();
                onMove(at, to.before);
              }}
              aria-pressed={open === at}
              data-offer={id}
              className={`flex w-full cursor-grab items-center gap-2 border-b border-line/50 px-4 py-1 text-left ${open === at ? 'bg-tint-copper' : 'hover:bg-sunk'}`}
            >
              <span aria-hidden className="text-soft">
                ⠿
              </span>
              <Icon icon={item?.icon ?? '🏷️'} />
              <span className={offer.hidden ? 'text-soft line-through' : ''}>{offerName(document, id, offer)}</span>
              {offer.badge && <Badge tone="care">{offer.badge}</Badge>}
              {broken.has(id) && <Badge tone="bad">case broken</Badge>}
              {found && <Badge tone={SEVERITY_TONE[found.severity]}>! {found.code}</Badge>}
              <span className="ml-auto">
                {playtime && times.has(at) && <TimeNote time={times.get(at)!} playtime={playtime} />}
              </span>
              <span className="max-w-44 min-w-22 truncate text-right text-sm" title={price}>
                {price || <span className="text-soft">{CELLS.basket.write(item?.worth) || 'no price'}</span>}
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}

/** A new offer of something that is found by its name. */
function AddOffer({
  shelf,
  document,
  onMade,
}: {
  shelf: string;
  document: EconomyDocument;
  onMade: (pointer: string) => void;
}) {
  const edits = useEdits();
  const maker = useMaker();
  const taken = (id: string) =>
    Object.values(document.shops ?? {}).some((shop) => Object.values(shop.shelves).some(({ offers }) => offers[id]));
  const add = (item: string) => {
    const path = `${shelf}/${freeId(item, taken)}`;
    edits.apply({ operations: [{ op: 'add', path, value: { gives: item } }] });
    onMade(path);
  };
  return (
    <Picker
      label="Item to offer"
      className="w-48 py-0"
      options={nameables(document, 'asset', [])}
      value={undefined}
      word="item to offer"
      adding
      onPick={(item) => item !== undefined && add(item)}
      onMake={(name) => maker('item')!(name, add)}
    />
  );
}

/** The shop, shelf or offer that is open: its name, its fields, and what can be done with it. */
function OpenThing({
  pointer,
  document,
  fresh,
  onOpen,
  onMade,
  onShop,
}: {
  pointer: string;
  document: EconomyDocument;
  /** It was just made. */
  fresh: boolean;
  onOpen: (pointer: string) => void;
  onMade: (pointer: string) => void;
  onShop: (id: string) => void;
}) {
  const [, , shop, , shelf, , offer] = pointer.split('/') as (string | undefined)[];
  const shelfDocument = shelf === undefined ? undefined : document.shops?.[shop!]?.shelves[shelf];
  const thing = (
    offer !== undefined ? shelfDocument?.offers[offer] : shelf === undefined ? document.shops?.[shop!] : shelfDocument
  ) as Record<string, unknown> | undefined;
  if (!thing) return null;
  const what = offer !== undefined ? 'Offer' : shelf !== undefined ? 'Shelf' : 'Shop';
  const name = offer !== undefined ? offerName(document, offer, thing as OfferDocument) : String(thing['name']);
  return (
    <Panel title={`${what}: ${name}`} of={pointer} onClose={() => onOpen('')}>
      <div className="flex flex-col gap-3" key={pointer}>
        {offer === undefined && <Rename pointer={pointer} name={name} fresh={fresh} />}
        <CopyAndDelete
          pointer={pointer}
          name={name}
          onGone={() => onOpen('')}
          onMade={(made) => (what === 'Shop' ? onShop(made.split('/')[2]!) : onMade(made))}
        />
        {offer !== undefined && <Tiers pointer={pointer} />}
        {offer !== undefined && <Money offer={offer} />}
        <SchemaForm pointer={pointer} value={thing} without={offer === undefined ? ['name'] : []} fresh={fresh} />
        {offer !== undefined && <OfferCases offer={offer} />}
      </div>
    </Panel>
  );
}

/** Cases that buy it or look for it. */
function OfferCases({ offer }: { offer: string }) {
  const cases = useCases().data?.cases.filter(({ offers }) => offers.includes(offer)) ?? [];
  return (
    <section aria-label="Cases of it">
      <h3 className="flex items-baseline gap-2 text-sm font-semibold text-soft">
        Cases
        <Link className="ml-auto font-normal underline" to={`/shops?mode=cases&propose=${offer}`}>
          Propose cases ...
        </Link>
      </h3>
      <ul className="text-sm">
        {cases.map(({ id, name, state }) => (
          <li key={id} className="flex items-baseline gap-2">
            <Link className="min-w-0 flex-1 underline decoration-line underline-offset-2" to={caseLink(id)}>
              {name}
            </Link>
            <CaseMark state={state} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function Rename({ pointer, name, fresh }: { pointer: string; name: string; fresh: boolean }) {
  const { apply } = useEdits();
  const [text, setText] = useState(name);
  const keep = () => {
    const change = text.trim() === '' ? undefined : fieldOperation(pointer, 'name', name, text.trim());
    if (change) apply({ operations: [change] });
  };
  return (
    <Field label="Name">
      {(id) => (
        <Input
          id={id}
          value={text}
          onChange={(event) => setText(event.target.value)}
          onBlur={ifShown(keep)}
          ref={fresh ? focusOnce : undefined}
          onKeyDown={(event) => {
            if (event.key === 'Enter') keep();
          }}
        />
      )}
    </Field>
  );
}
