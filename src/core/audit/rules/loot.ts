/** Findings about loot tables and boxes. */
import type { Economy, LootTable } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import type { AuditRule } from '../finding.js';

export const weightNotPositive: AuditRule = {
  code: 'weight-not-positive',
  severity: 'warning',
  help: 'A loot entry with a weight of 0 or less is never drawn.',
  find: ({ economy }) =>
    [...economy.loot.values()].flatMap((table) =>
      table.entries
        .filter(({ weight }) => weight <= 0)
        .map(({ id, weight }) => ({
          pointer: pointerOf(['loot', table.id, 'entries', id, 'weight']),
          subject: `${id} in ${table.name}`,
          message: `its weight is ${weight}, so it is never drawn`,
          fix: 'Write a weight above 0, or remove the entry.',
          ...(table.guarantee?.entry === id || table.entries.length === 1
            ? {}
            : {
                mend: {
                  words: `remove the entry ${id}`,
                  operations: [{ op: 'remove' as const, path: pointerOf(['loot', table.id, 'entries', id]) }],
                },
              }),
        })),
    ),
};

export const tableEmpty: AuditRule = {
  code: 'table-empty',
  severity: 'error',
  help: 'A loot table in which nothing can be drawn gives nothing, ever.',
  find: ({ economy }) =>
    [...economy.loot.values()]
      .filter(({ entries, picks }) => picks.to === 0 || entries.every(({ weight }) => weight <= 0))
      .map(({ id, name, picks }) => ({
        pointer: pointerOf(['loot', id]),
        subject: name,
        message: picks.to === 0 ? 'it has 0 picks, so nothing comes from it' : 'no entry has a weight above 0',
        fix: 'Write picks of 1 or more, and weights above 0.',
      })),
};

export const keyUnobtainable: AuditRule = {
  code: 'key-unobtainable',
  severity: 'error',
  help: 'A box whose key nobody can get stays shut.',
  find: ({ economy, obtainable }) =>
    [...economy.items.values()].flatMap((item) =>
      item.kind === 'box' && item.opensWith && !obtainable.has(item.opensWith.item)
        ? [
            {
              pointer: pointerOf(['items', item.id, 'opensWith']),
              subject: item.name,
              message: `it opens with ${economy.items.get(item.opensWith.item)?.name ?? item.opensWith.item}, and no player can get one`,
              fix: 'Offer the key, give it by a rule or a table, or remove opensWith.',
            },
          ]
        : [],
    ),
};

/** A table is rolled directly by a box or an earning rule. */
const rolledDirectly = (economy: Economy, table: LootTable): boolean =>
  [...economy.items.values()].some((item) => item.kind === 'box' && item.loot === table.id) ||
  [...economy.earning.values()].some(({ loot }) => loot === table.id);

export const guaranteeWithoutEffect: AuditRule = {
  code: 'guarantee-without-effect',
  severity: 'hint',
  help: 'A guarantee counts openings of its own table; where that is only reached through another, it never counts.',
  find: ({ economy }) =>
    [...economy.loot.values()]
      .filter((table) => table.guarantee && !rolledDirectly(economy, table))
      .map((table) => ({
        pointer: pointerOf(['loot', table.id, 'guarantee']),
        subject: table.name,
        message: 'no box and no earning rule rolls this table itself, so its guarantee never counts',
        fix: 'Put the guarantee on the table that is opened, or roll this one directly.',
        mend: {
          words: 'remove the guarantee',
          operations: [{ op: 'remove', path: pointerOf(['loot', table.id, 'guarantee']) }],
        },
      })),
};

export const lootOwnOnce: AuditRule = {
  code: 'loot-own-once',
  severity: 'hint',
  help: 'A player who already owns it draws nothing: what passes carry is dropped.',
  find: ({ economy }) =>
    [...economy.loot.values()].flatMap((table) =>
      table.entries.flatMap((entry) =>
        entry.gives
          .filter(({ asset }) => economy.items.get(asset)?.carry === 1 && entry.when === undefined)
          .map(({ asset }) => ({
            pointer: pointerOf(['loot', table.id, 'entries', entry.id]),
            subject: `${economy.items.get(asset)!.name} in ${table.name}`,
            message: 'a player may hold one, and who has it already would draw nothing',
            fix: `Write when: "=owned(${asset}) == 0", so that something else is drawn.`,
            mend: {
              words: `draw it only while owned(${asset}) is 0`,
              operations: [
                {
                  op: 'add',
                  path: pointerOf(['loot', table.id, 'entries', entry.id, 'when']),
                  value: `=owned(${asset}) == 0`,
                },
              ],
            },
          })),
      ),
    ),
};
