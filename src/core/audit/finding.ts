/** A finding of the audit, and the one type that every audit rule has. */
import type { EconomyDocument } from '../document/index.js';
import type { Economy, Offer } from '../economy/index.js';
import { pointerOf } from '../issue/index.js';
import type { Mend, Place } from '../issue/index.js';
import type { Probes } from './probes.js';

export type Severity = 'error' | 'warning' | 'hint';

export interface Finding {
  code: string;
  severity: Severity;
  pointer: string;
  /** What it concerns, by name: "Storm Frame at Pier Stall". */
  subject: string;
  message: string;
  fix: string;
  place?: Place;
  /** A safe way out that can be taken without asking. */
  mend?: Mend;
  /** Why a hint was silenced; such findings are not counted. */
  silenced?: string;
}

/** What a rule says of one place; the registry adds code and severity. */
export type RuleFinding = Omit<Finding, 'code' | 'severity'>;

export interface AuditRule {
  code: string;
  severity: Severity;
  /** One line for people: what the rule looks for, and why it matters. */
  help: string;
  find(input: AuditInput): RuleFinding[];
}

export interface AuditInput {
  document: EconomyDocument;
  economy: Economy;
  /** Assets that some player can come to have, by earning, refill, start or buying. */
  obtainable: ReadonlySet<string>;
  /** Players along whose state formulas are looked at. */
  probes: Probes;
  /** Names of the picture files that there are; undefined where nobody knows. */
  pictures: ReadonlySet<string> | undefined;
}

export const offerPointer = (offer: Offer, ...more: (string | number)[]): string =>
  pointerOf([...offer.pointer, ...more]);
export const offerSubject = (offer: Offer): string => `${offer.name} at ${offer.shop.name}`;
/** An offer that no player will meet as things stand. */
export const offerIsHidden = (offer: Offer): boolean => offer.hidden || offer.shelf.hidden || offer.shop.hidden;
