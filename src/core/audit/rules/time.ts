/** Findings about time: windows, rotations and sales that meet badly. */
import { unitsFormat } from '../../amount/index.js';
import { choiceBasket, quantitiesEvaluate } from '../../economy/index.js';
import { valueAt } from '../../document/index.js';
import type { Economy, Offer, Sale } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { playerCreate, playerScope } from '../../player/index.js';
import { offerShownIn } from '../../calendar/index.js';
import { avoidPossible } from '../../rotation/index.js';
import { DAY_MS, instantRead, instantWritten, openingWindows, recurrenceComes } from '../../schedule/index.js';
import type { Opening, Period } from '../../schedule/index.js';
import { salesReduce } from '../../trade/index.js';

import { offerIsHidden } from '../finding.js';
import type { AuditInput, AuditRule, RuleFinding } from '../finding.js';

/** How long windows that never end are followed. */
const FOLLOWED_MS = 400 * DAY_MS;

/** The stretch in which an opening is looked at: from its first moment on; undefined where it is open all the time. */
function followed({ fromMs, untilMs, recurrences }: Opening): Period | undefined {
  if (fromMs === undefined && untilMs === undefined && recurrences.length === 0) return undefined;
  const begins = fromMs ?? Math.min(...recurrences.map(({ startsWall }) => startsWall)) - DAY_MS;
  const startMs = Number.isFinite(begins) ? begins : untilMs! - FOLLOWED_MS;
  return { startMs, endMs: Math.min(untilMs ?? Infinity, startMs + FOLLOWED_MS) };
}

const windowsOf = (opening: Opening): Period[] => {
  const stretch = followed(opening);
  return stretch ? openingWindows(opening, stretch.startMs, stretch.endMs) : [];
};

/** Everything that has windows, with where they are written. */
function openings({ economy }: AuditInput): { subject: string; opening: Opening; at: string[]; windows: string }[] {
  return [
    ...[...economy.shops.values()].map((shop) => ({
      subject: shop.name,
      opening: shop.opening,
      at: ['shops', shop.id],
      windows: 'open',
    })),
    ...[...economy.sales.values()].map((sale) => ({
      subject: sale.name,
      opening: sale.opening,
      at: ['sales', sale.id],
      windows: 'runs',
    })),
  ];
}

export const windowNever: AuditRule = {
  code: 'window-never',
  severity: 'error',
  help: 'A window whose rule never comes, or only outside from and until, never opens.',
  find: (input) =>
    openings(input).flatMap(({ subject, opening, at, windows }): RuleFinding[] => {
      const never = opening.recurrences.findIndex((one) => !recurrenceComes(one));
      const written = Object.keys(valueAt(input.document, [...at, windows]) ?? {});
      if (never >= 0)
        return [
          {
            pointer: pointerOf([...at, windows, written[never]!, 'repeats']),
            subject,
            message: `the rule ${opening.recurrences[never]!.repeats} never comes`,
            fix: 'Mend the rule, or remove the window.',
          },
        ];
      return opening.recurrences.length > 0 && windowsOf(opening).length === 0
        ? [
            {
              pointer: pointerOf([...at, windows]),
              subject,
              message: 'its windows never open between from and until',
              fix: 'Mend from, until or the windows.',
            },
          ]
        : [];
    }),
};

export const windowAlways: AuditRule = {
  code: 'window-always',
  severity: 'warning',
  help: 'Windows that follow each other without a gap never close, so they say nothing.',
  find: (input) =>
    openings(input).flatMap(({ subject, opening, at, windows }) => {
      const [only, ...others] = windowsOf(opening);
      const stretch = followed(opening);
      const spans =
        only && others.length === 0 && only.endMs - only.startMs > 32 * DAY_MS && only.endMs === stretch!.endMs;
      if (opening.recurrences.length === 0 || !spans) return [];
      return [
        {
          pointer: pointerOf([...at, windows]),
          subject,
          message: 'its windows follow each other without a gap: it never closes',
          fix: `Shorten lasts, or remove ${windows} and use from and until.`,
        },
      ];
    }),
};

const pickedBy = (economy: Economy, sale: Sale): Offer[] =>
  [...economy.offers.values()].filter((offer) => offer.sales.includes(sale) && !offerIsHidden(offer));

const offerNames = (offers: readonly Offer[]): string =>
  `${offers
    .slice(0, 3)
    .map(({ name }) => name)
    .join(', ')}${offers.length > 3 ? ` and ${offers.length - 3} more` : ''}`;

export const saleOffShow: AuditRule = {
  code: 'sale-off-show',
  severity: 'warning',
  help: 'A sale on something that is not on show, or in a shop that is closed, while it runs.',
  find: ({ economy, document }) =>
    [...economy.sales.values()].flatMap((sale) => {
      const windows = windowsOf(sale.opening);
      if (windows.length === 0) return [];
      const picked = pickedBy(economy, sale);
      const missed = picked.filter(
        (offer) => !windows.some(({ startMs, endMs }) => offerShownIn(economy, offer, startMs, endMs).length > 0),
      );
      // Of a whole shop or group some may well not be on show; what is named one by one is meant.
      const named = document.sales?.[sale.id]?.offers !== undefined;
      if (missed.length === 0 || (!named && missed.length < picked.length)) return [];
      const closed = missed.filter(
        ({ shop }) => !windows.some(({ startMs, endMs }) => openingWindows(shop.opening, startMs, endMs).length > 0),
      );
      return [
        {
          pointer: pointerOf(['sales', sale.id]),
          subject: sale.name,
          message:
            closed.length === missed.length
              ? `${[...new Set(closed.map(({ shop }) => shop.name))].join(' and ')} is closed while it runs, so ${offerNames(missed)} cannot be bought`
              : `while it runs, ${offerNames(missed)} ${missed.length === 1 ? 'is' : 'are'} never on show`,
          fix: 'Move the sale, pick other offers, or pin them into the rotation.',
        },
      ];
    }),
};

export const saleWithoutEffect: AuditRule = {
  code: 'sale-without-effect',
  severity: 'warning',
  help: 'A sale that picks nothing, or lowers no price of what it picks.',
  find: ({ economy }) => {
    const scope = playerScope(economy, playerCreate(economy, 'new_player', 'New player', 0).player, 0);
    return [...economy.sales.values()].flatMap((sale) => {
      const offers = pickedBy(economy, sale);
      const lowers = offers.some((offer) =>
        (offer.prices ?? []).some((choice) => {
          const price = quantitiesEvaluate(choiceBasket(choice), scope);
          return price.ok && salesReduce(economy, [sale], price.basket).length > 0;
        }),
      );
      return lowers
        ? []
        : [
            {
              pointer: pointerOf(['sales', sale.id]),
              subject: sale.name,
              message:
                offers.length === 0
                  ? 'it picks no offer'
                  : `it lowers no price of ${offerNames(offers)}: real money and what is free stay as they are, and a set price must ask for the same assets and less`,
              fix: 'Write offers:, shops:, groups: or tags: that fit, or mend what it takes off.',
            },
          ];
    });
  },
};

function rotations({ economy }: AuditInput) {
  return [...economy.shops.values()].flatMap((shop) =>
    shop.hidden
      ? []
      : shop.shelves.flatMap((shelf) =>
          shelf.rotation && !shelf.hidden
            ? [
                {
                  shop,
                  shelf,
                  rotation: shelf.rotation,
                  pointer: pointerOf(['shops', shop.id, 'shelves', shelf.id, 'rotation']),
                  subject: `${shelf.name} at ${shop.name}`,
                },
              ]
            : [],
        ),
  );
}

export const rotationEmpty: AuditRule = {
  code: 'rotation-empty',
  severity: 'error',
  help: 'A rotation with nothing in its pool shows empty places.',
  find: (input) =>
    rotations(input).flatMap(({ shop, rotation, pointer, subject }) => {
      const edges = rotation.pool.flatMap(({ opening }) => [opening.fromMs, opening.untilMs]);
      const instants = [0, ...edges.filter((ms) => ms !== undefined)];
      const empty = instants.find(
        (ms) =>
          openingWindows(shop.opening, ms, ms + 1).length > 0 &&
          rotation.pool.every(({ opening }) => openingWindows(opening, ms, ms + 1).length === 0),
      );
      return empty === undefined
        ? []
        : [
            {
              pointer,
              subject,
              message:
                rotation.pool.length === 0
                  ? 'its pool holds no offer'
                  : `from ${instantWritten(rotation.beat.zone, empty)} on its pool holds no offer that is open`,
              fix: 'Put offers on the shelf, or mend their windows.',
            },
          ];
    }),
};

export const rotationShort: AuditRule = {
  code: 'rotation-short',
  severity: 'warning',
  help: 'A pool too small for what it shows, or for how long its offers are to rest.',
  find: (input) =>
    rotations(input).flatMap(({ rotation, pointer, subject }) => {
      const { pool, show, avoid } = rotation;
      const possible = avoidPossible(rotation);
      if (pool.length === 0 || (pool.length >= show && possible === avoid)) return [];
      return [
        {
          pointer: pool.length < show ? `${pointer}/show` : `${pointer}/avoid`,
          subject,
          message:
            pool.length < show
              ? `it shows ${show} and its pool holds ${pool.length}`
              : `with ${pool.length} offers of which ${show} are on show, each can rest ${possible} periods and not ${avoid}`,
          fix: `Put at least ${show * (avoid + 1)} offers into the pool, or lower show or avoid.`,
        },
      ];
    }),
};

export const rotationFewSelections: AuditRule = {
  code: 'rotation-few-selections',
  severity: 'hint',
  help: 'A pool in which everything must be shown in turn has few selections, the same ones over and over.',
  find: (input) =>
    rotations(input).flatMap(({ rotation, pointer, subject }) => {
      const { pool, show, perPlayer } = rotation;
      const turns = avoidPossible(rotation) + 1;
      if (turns < 2 || pool.length !== show * turns) return [];
      return [
        {
          pointer: `${pointer}/avoid`,
          subject,
          message: `with ${pool.length} offers of which ${show} are on show and each rests ${turns - 1}, there are ${turns} selections${perPlayer ? ' for each player' : ''}, one after the other for ever`,
          fix: 'Put another offer into the pool, or lower show or avoid.',
        },
      ];
    }),
};

export const rotationWeight: AuditRule = {
  code: 'rotation-weight',
  severity: 'hint',
  help: 'A weight that asks for more periods than resting leaves is not reached.',
  find: (input) =>
    rotations(input).flatMap(({ shop, shelf, rotation, subject }) => {
      const total = rotation.pool.reduce((sum, { weight }) => sum + weight, 0);
      const most = 1 / (avoidPossible(rotation) + 1);
      return rotation.pool
        .filter(({ weight }) => rotation.pool.length > rotation.show && (rotation.show * weight) / total > most + 1e-9)
        .map(({ id, weight }) => ({
          pointer: pointerOf(['shops', shop.id, 'shelves', shelf.id, 'offers', id, 'weight']),
          subject: `${input.economy.offers.get(id)?.name ?? id}, ${subject}`,
          message: `its weight ${weight} asks for ${percent((rotation.show * weight) / total)} of the periods, and it can have at most ${percent(most)}`,
          fix: 'Lower its weight or avoid, or put more offers into the pool.',
        }));
    }),
};
const percent = (part: number): string => `${unitsFormat(Math.round(part * 100), 0)} %`;

/** Clocks change by the same rules for years, so a few tell of all. */
const YEARS_LOOKED_AT = { from: 2026, days: 4 * 365 };
const withoutByTime = new Map<string, string | undefined>();

/** The first day looked at on which clocks never show this time of day. */
function dayWithout(zone: string, time: string): string | undefined {
  const key = `${zone} ${time}`;
  if (!withoutByTime.has(key)) {
    const first = Date.UTC(YEARS_LOOKED_AT.from, 0, 1);
    const days = Array.from({ length: YEARS_LOOKED_AT.days }, (_, day) =>
      new Date(first + day * DAY_MS).toISOString().slice(0, 10),
    );
    withoutByTime.set(
      key,
      days.find((day) => instantRead(zone, `${day}T${time}`)?.matches === 0),
    );
  }
  return withoutByTime.get(key);
}

const TIME_FIELDS = new Set(['from', 'until', 'at', 'starts', 'start']);

export const localTimeInDoubt: AuditRule = {
  code: 'local-time-in-doubt',
  severity: 'warning',
  help: 'A local time that clocks jump over, or show twice, when they change.',
  find: ({ document }) => {
    const zone = document.timeZone;
    const found: RuleFinding[] = [];
    const visit = (value: unknown, path: string[]): void => {
      if (typeof value === 'object' && value !== null)
        for (const [key, inner] of Object.entries(value)) visit(inner, [...path, key]);
      else if (typeof value === 'string' && path.at(-1) === 'at' && /^\d\d:\d\d$/.test(value)) {
        const day = dayWithout(zone, value);
        if (day !== undefined)
          found.push({
            pointer: pointerOf(path),
            subject: path.slice(0, 2).join(' '),
            message: `clocks in ${zone} jump over ${value}, next on ${day}: on such days it comes when they have jumped`,
            fix: 'Write an hour that clocks show every day, such as 09:00.',
          });
      } else if (typeof value === 'string' && TIME_FIELDS.has(path.at(-1)!) && /^\d{4}-\d\d-\d\d/.test(value)) {
        const read = instantRead(zone, value);
        if (!read || read.matches === 1) return;
        const meant = instantWritten(zone, read.ms);
        // A window begins by the clocks on the wall, so an offset cannot stand there.
        const local = path.at(-1) === 'starts';
        found.push({
          pointer: pointerOf(path),
          subject: path.slice(0, 2).join(' '),
          message:
            read.matches === 0
              ? `clocks in ${zone} jump over ${value}; it is read as ${meant}`
              : `clocks in ${zone} show ${value} twice; the first is meant, ${meant}, not ${instantWritten(zone, read.secondMs!)}`,
          fix: local ? 'Write another time.' : 'Write the offset too, or another time.',
          ...(local
            ? {}
            : {
                mend: { words: `write ${meant}`, operations: [{ op: 'replace', path: pointerOf(path), value: meant }] },
              }),
        });
      }
    };
    for (const section of ['currencies', 'shops', 'sales', 'scenarios'] as const) visit(document[section], [section]);
    return found;
  },
};
