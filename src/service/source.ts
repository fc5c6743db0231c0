/** Which economy a look or a dry run is about, and for whom: a real player or a made-up one. */
import type { EconomyDocument } from '../core/document/index.js';
import type { Economy } from '../core/economy/index.js';
import { playerMadeUp } from '../core/player/index.js';
import type { Player, Profile } from '../core/player/index.js';
import { instantOf } from './handler.js';
import { Problem, notFound } from './problem.js';
import type { Service } from './service.js';

/** An economy with the document that it was compiled from; `release` is null for the draft. */
export interface Source {
  economy: Economy;
  document: EconomyDocument;
  release: number | null;
}

/** Which economy is asked about: `draft`, a channel (as it is at `atMs`, where that is given), or a release number. */
export function sourceEconomy(service: Service, source = 'live', atMs?: number): Source {
  const { economies } = service;
  if (source === 'draft')
    return { economy: economies.draftRecorded(), document: economies.draft().document, release: null };
  if (!/^\d+$/.test(source)) return economies.live(source, atMs);
  const compiled = economies.releaseRecorded(Number(source));
  if (!compiled) throw notFound('release', source);
  return compiled;
}

/** The same for an instant as it is written; without an offset it is in the zone of what is asked about now. */
export function sourceAt(
  service: Service,
  source: string | undefined,
  written: string | undefined,
): Source & { atMs: number } {
  if (written === undefined || written === 'now') return { ...sourceEconomy(service, source), atMs: service.now() };
  const { zone } = sourceEconomy(service, source).economy;
  const atMs = instantOf(written, zone, service.now());
  return { ...sourceEconomy(service, source, atMs), atMs };
}

/** A player made up for a question; nothing of it is kept. */
export function profilePlayer(economy: Economy, profile: Profile, nowMs: number): Player {
  const holds = profile.holds ?? {};
  const unknown = Object.keys(holds).find((asset) => !economy.currencies.has(asset) && !economy.items.has(asset));
  if (unknown !== undefined)
    throw new Problem('invalid', `There is no currency or item "${unknown}".`, {
      errors: [
        {
          pointer: `/holds/${unknown}`,
          code: 'dangling-reference',
          detail: `there is no asset "${unknown}"`,
          fix: 'Name one that exists.',
        },
      ],
    });
  return playerMadeUp(economy, profile, nowMs);
}

/** The player of a question: `player` names a real one, `profile` describes a made-up one; neither is a new player. */
export function playerAsked(
  service: Service,
  economy: Economy,
  asked: { player?: string | undefined; profile?: Profile | undefined },
  nowMs: number,
): Player {
  if (asked.player === undefined) return profilePlayer(economy, asked.profile ?? {}, nowMs);
  const held = service.players.get(asked.player);
  if (!held) throw notFound('player', asked.player);
  return held.player;
}
