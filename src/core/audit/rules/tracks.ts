/** Findings about tracks and their levels. */
import { pointerOf } from '../../issue/index.js';
import { amountText, economyLabels } from '../../texts/index.js';
import type { AuditRule } from '../finding.js';

const about = ({ id, name }: { id: string; name: string }, ...more: string[]) => ({
  pointer: pointerOf(['tracks', id, ...more]),
  subject: `track ${name}`,
});

export const trackWithoutLevels: AuditRule = {
  code: 'track-without-levels',
  severity: 'warning',
  help: 'A track without levels leads nowhere.',
  find: ({ economy }) =>
    [...economy.tracks.values()]
      .filter(({ levels }) => levels.length === 0)
      .map((track) => ({
        ...about(track),
        message: 'it has no levels',
        fix: 'Write levels: with what each costs, or further: with a formula.',
      })),
};

export const levelGap: AuditRule = {
  code: 'level-gap',
  severity: 'warning',
  help: 'A level that is missing in a table: players jump over it.',
  find: ({ economy }) =>
    [...economy.tracks.values()].flatMap((track) =>
      track.levels.flatMap(({ level }, place) => {
        const before = track.levels[place - 1]?.level ?? track.start;
        return level === before + 1
          ? []
          : [
              {
                ...about(track),
                message: `after level ${before} comes level ${level}`,
                fix: 'Write the levels between them too, or number them anew.',
              },
            ];
      }),
    ),
};

export const levelFree: AuditRule = {
  code: 'level-free',
  severity: 'warning',
  help: 'A level that costs nothing, written or rounded to, is reached with whatever a player does next.',
  find: ({ economy }) =>
    [...economy.tracks.values()].flatMap((track) =>
      track.levels
        .filter(({ costs }) => costs === 0)
        .map(({ level }) => ({
          ...about(track),
          message: `level ${level} costs ${amountText(economyLabels(economy), track.currency, 0)}`,
          fix: 'Write what it costs; max(1, ...) keeps a formula above 0.',
        })),
    ),
};

export const furtherBelowTable: AuditRule = {
  code: 'further-below-table',
  severity: 'warning',
  help: 'Further levels that end where the table does, or before, add none.',
  find: ({ economy, document }) =>
    Object.entries(document.tracks ?? {}).flatMap(([id, { name, levels, further }]) => {
      const start = economy.tracks.get(id)?.start ?? 0;
      const last = Math.max(start, ...Object.keys(levels ?? {}).map(Number));
      return further && further.to <= last
        ? [
            {
              ...about({ id, name }, 'further', 'to'),
              message: `they go up to level ${further.to}, and ${last === start ? 'players begin' : 'the table ends'} at level ${last}`,
              fix: `Write to: ${last + 1} or more, or remove further.`,
            },
          ]
        : [];
    }),
};

export const trackFeedsItself: AuditRule = {
  code: 'track-feeds-itself',
  severity: 'warning',
  help: 'A level that gives as much of what its track counts as the next one costs is climbed for nothing.',
  find: ({ economy }) =>
    [...economy.tracks.values()].flatMap((track) =>
      track.levels.flatMap(({ level, gives }, place) => {
        const next = track.levels[place + 1];
        const given = gives[track.currency] ?? 0;
        if (!next || given === 0 || given < next.costs) return [];
        const labels = economyLabels(economy);
        return [
          {
            ...about(track),
            message: `level ${level} gives ${amountText(labels, track.currency, given)}, and level ${next.level} costs ${amountText(labels, track.currency, next.costs)}`,
            fix: 'Give less of it, or something else.',
          },
        ];
      }),
    ),
};

export const tracksShareAttribute: AuditRule = {
  code: 'tracks-share-attribute',
  severity: 'warning',
  help: 'Two tracks that set one attribute: it shows the higher of both levels, and says nothing about the other.',
  find: ({ economy }) => {
    const tracks = [...economy.tracks.values()];
    return tracks.flatMap((track, place) => {
      const first = tracks.slice(0, place).find(({ attribute }) => attribute === track.attribute);
      return first
        ? [
            {
              ...about(track, 'attribute'),
              message: `"${track.attribute}" holds the level of ${first.name} already`,
              fix: 'Give each track an attribute of its own.',
            },
          ]
        : [];
    });
  },
};
