/** A shop as a player sees it: what they have, what they work towards, and each offer with its verdict. */
import { useState } from 'react';
import type { ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import { basketText } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { goalWords, trackWords } from '../../core/texts/progress.js';
import type { FrontOffer } from '../../core/storefront/index.js';
import type { FrontView } from '../../contract/index.js';
import { Icon } from '../parts/Icon.js';
import { Moved } from '../parts/Moved.js';
import { PlayingTimeNote } from '../parts/playtime.js';
import { Badge, Empty, Few, PriceTag, Sheet, instantWords } from '../parts/ui.js';

/** Of currencies, before it is asked for the rest. */
const MOST_WORDS = 10;
/** Of what is worked towards. */
const MOST_BARS = 8;

/** `act`: what stands under an offer, beside its verdict. `bars`: how much of what is worked towards is told at first. */
export function FrontSheet({
  front,
  labels,
  zone,
  act,
  bars = MOST_BARS,
}: {
  front: FrontView;
  labels: AssetLabels;
  zone: string | undefined;
  act?: (offer: FrontOffer) => ReactNode;
  bars?: number;
}) {
  const nameOf = (id: string) =>
    front.shelves.flatMap(({ offers }) => offers).find((offer) => offer.id === id)?.name ?? id;
  return (
    <div className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-x-5 gap-y-1 rounded-sheet border border-line bg-sheet px-4 py-2">
        <span className="font-display text-lg font-semibold">
          <Icon icon={front.icon} /> {front.name}
        </span>
        <span>{instantWords(front.atMs, zone)}</span>
        <span>
          <span className="text-soft">wallet</span>{' '}
          {front.wallet ?? (
            <Few
              words={Object.entries(front.balances).map(([asset, units]) => basketText(labels, { [asset]: units }))}
              most={MOST_WORDS}
              between=", "
            />
          )}
        </span>
        {front.nextGoal && (
          <span>
            <span className="text-soft">next to save for</span> {nameOf(front.nextGoal.offer)}, short of{' '}
            {basketText(labels, front.nextGoal.short)}
          </span>
        )}
        {front.affordable[0] !== undefined && (
          <span>
            <span className="text-soft">best to buy now</span> {nameOf(front.affordable[0])}
          </span>
        )}
      </div>
      {(front.tracks.length > 0 || front.goals.length > 0) && <Towards front={front} labels={labels} most={bars} />}
      {front.shelves.length === 0 && <Empty>Nothing is on show here at that instant.</Empty>}
      {front.buysBack.length > 0 && (
        <p className="rounded-sheet border border-line bg-sheet px-4 py-2">
          <span className="text-soft">buys back</span>{' '}
          {front.buysBack
            .map(
              ({ item, held, pays }) => `${labels(item)?.name ?? item} (${held}) for ${basketText(labels, pays)} each`,
            )
            .join(', ')}
        </p>
      )}
      {front.shelves.map((shelf) => (
        <Sheet
          key={shelf.id}
          title={shelf.name}
          actions={shelf.rotates && <Badge>until {instantWords(shelf.rotates.untilMs, zone)}</Badge>}
        >
          <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-3">
            {shelf.offers.map((offer) => (
              <OfferCard key={offer.id} offer={offer} labels={labels} zone={zone} act={act?.(offer)} />
            ))}
          </ul>
        </Sheet>
      ))}
    </div>
  );
}

/** Levels and goals as bars, what is nearest first. */
function Towards({ front: { tracks, goals }, labels, most }: { front: FrontView; labels: AssetLabels; most: number }) {
  const [whole, setWhole] = useState(false);
  const bars = [
    ...tracks.map((track) => ({
      key: track.track,
      words: track.told ?? trackWords(labels, track),
      part: track.next === null ? 1 : track.earned / Math.max(1, track.next.from),
    })),
    ...goals
      .filter(({ reached }) => !reached)
      .map((goal) => ({ goal, part: goal.target > 0 ? goal.count / goal.target : 0 }))
      .sort((a, b) => b.part - a.part)
      .map(({ goal, part }) => ({ key: goal.goal, words: goal.told ?? goalWords(labels, goal), part })),
  ];
  const shown = whole ? bars.length : most;
  return (
    <section aria-label="Works towards" className="rounded-sheet border border-line bg-sheet px-4 py-2">
      <h2 className="text-sm text-soft">Works towards</h2>
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(270px,1fr))] gap-x-5 gap-y-1">
        {/* Those that are not shown are there as well: one that comes nearer is marked when it comes up. */}
        {bars.map(({ key, words, part }, place) => (
          <li key={key} hidden={place >= shown} className={place >= shown ? '' : 'flex min-w-0 flex-col text-sm'}>
            <span className="truncate" title={words}>
              <Moved of={words}>{words}</Moved>
            </span>
            <span aria-hidden className="h-1.5 w-full overflow-hidden rounded-full bg-line/60">
              <span
                className="block h-full bg-verdigris"
                style={{ width: `${(100 * Math.min(1, Math.max(0, part))).toFixed(1)}%` }}
              />
            </span>
          </li>
        ))}
      </ul>
      {shown < bars.length && (
        <button type="button" className="text-sm underline" onClick={() => setWhole(true)}>
          and {bars.length - shown} more
        </button>
      )}
    </section>
  );
}

function OfferCard({
  offer,
  labels,
  zone,
  act,
}: {
  offer: FrontOffer;
  labels: AssetLabels;
  zone: string | undefined;
  act: ReactNode;
}) {
  const [params] = useSearchParams();
  const check = new URLSearchParams(params);
  check.delete('shop');
  check.set('offer', offer.id);
  const { verdict } = offer;
  return (
    <li className="flex flex-col gap-1 rounded-sheet border border-line bg-paper p-3" data-offer={offer.id}>
      <div className="flex items-start gap-2">
        <span className="text-2xl leading-none" aria-hidden>
          <Icon icon={offer.icon ?? '🏷️'} />
        </span>
        <div className="min-w-0 flex-1">
          <Link
            to={`/check?${check.toString()}`}
            className="font-semibold underline decoration-line underline-offset-2 hover:decoration-copper"
          >
            {offer.name}
          </Link>
          {offer.badge && (
            <>
              {' '}
              <Badge tone="care">{offer.badge}</Badge>
            </>
          )}
          {offer.description && <p className="text-sm text-soft">{offer.description}</p>}
        </div>
      </div>
      <p className="flex flex-wrap items-center gap-1.5">
        {offer.choices.map(({ pay, total, money, allowed, before }) => (
          <span key={pay} className={allowed || offer.choices.length === 1 ? '' : 'opacity-60'}>
            {before && (
              <s className="mr-1 text-sm text-soft">
                <span className="sr-only">instead of </span>
                {offer.told?.before[pay] ?? basketText(labels, before)}
              </s>
            )}
            {offer.told ? (
              <span className="price-tag">{offer.told.prices[pay]}</span>
            ) : (
              <PriceTag total={total} money={money} labels={labels} />
            )}
            <PlayingTimeNote units={total} className="ml-1.5" />
            {!allowed && offer.choices.length > 1 && (
              <span className="text-sm">
                {' '}
                ✗<span className="sr-only"> cannot be paid this way now</span>
              </span>
            )}
          </span>
        ))}
        {offer.choices.length === 0 && <Badge tone="bad">no price</Badge>}
      </p>
      {verdict.allowed ? (
        <p>
          {offer.told?.ask ? <q className="text-verdigris">{offer.told.ask}</q> : <Badge tone="good">can buy</Badge>}
        </p>
      ) : (
        <ul className="flex flex-col gap-1">
          {offer.told
            ? offer.told.refusals.map((refusal) => (
                <li key={refusal}>
                  <q className="text-brick">{refusal}</q>
                </li>
              ))
            : verdict.reasons.map((reason) => (
                <li key={reason.code + reason.sentence} className="text-sm">
                  <Badge tone="bad">{reason.code}</Badge> {reason.sentence}
                </li>
              ))}
        </ul>
      )}
      {verdict.price?.sale && (
        <p className="text-sm">
          <Badge tone="care">{offer.told?.sale ?? verdict.price.sale.name}</Badge>
          {verdict.price.sale.endsMs !== null && ` until ${instantWords(verdict.price.sale.endsMs, zone)}`}
          {verdict.price.passedOver && (
            <span className="text-soft">
              {' '}
              (lower than {verdict.price.passedOver.map(({ name }) => name).join(', ')})
            </span>
          )}
        </p>
      )}
      <p className="mt-auto text-sm text-soft">
        {verdict.stock && (
          <span>
            <Moved of={String(verdict.stock.left)}>{verdict.stock.left} in stock</Moved>
            {verdict.stock.restocksMs === null ? '' : `, more at ${instantWords(verdict.stock.restocksMs, zone)}`}.{' '}
          </span>
        )}
        {verdict.limits.map(({ period, used, most }) => (
          <span key={period}>
            <Moved of={String(used)}>
              {used} of {most} per {period}.
            </Moved>{' '}
          </span>
        ))}
      </p>
      {act}
    </li>
  );
}
